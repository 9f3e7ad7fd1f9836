<script lang="ts">
  import PromisesSettings from './PromisesSettings.svelte';
  import type { Panel } from '$lib/core/board';
  import { services } from '$lib/core/services';

  interface Props {
    /** A panel without a signal: text, alarms, incidents, silent resources, status. */
    panel: Panel;
    onChange: (panel: Panel) => void;
  }
  let { panel, onChange }: Props = $props();
</script>

{#snippet ofService(service: string | undefined, change: (service: string | undefined) => void)}
  <label
    >of
    <select class="part" value={service ?? ''} onchange={(event) => change(event.currentTarget.value || undefined)}>
      <option value="">all services</option>
      {#each services as { key, title } (key)}<option value={key}>{title}</option>{/each}
    </select></label
  >
{/snippet}

{#if panel.picture === 'text'}
  <label
    >Text, in CommonMark
    <textarea
      class="field num h-[260px]"
      maxlength="20000"
      value={panel.text}
      onchange={(event) => onChange({ ...panel, text: event.currentTarget.value })}></textarea></label
  >
  <p class="text-quiet text-[12px]">
    A link such as <span class="num">[Machines](/services/machines/board)</span> keeps the range and the picked values.
  </p>
{:else if panel.picture === 'alarms'}{@render ofService(panel.service, (service) => onChange({ ...panel, service }))}
{:else if panel.picture === 'incidents'}
  {@render ofService(panel.service, (service) => onChange({ ...panel, service }))}
  <label
    ><input
      type="checkbox"
      checked={panel.open}
      onchange={(event) => onChange({ ...panel, open: event.currentTarget.checked })}
    /> only what is raised now</label
  >
{:else if panel.picture === 'promises'}<PromisesSettings {panel} {onChange} />
{:else if panel.picture === 'log'}
  <label
    >Lines that match
    <input
      class="field num"
      maxlength="2000"
      spellcheck="false"
      placeholder="every line, or a search: severity &gt;= error"
      value={panel.search}
      onchange={(event) => onChange({ ...panel, search: event.currentTarget.value.trim() })}
    /></label
  >
  <label
    >the newest
    <input
      class="part num w-[70px]"
      type="number"
      min="1"
      max="200"
      value={panel.rows}
      onchange={(event) =>
        onChange({ ...panel, rows: Math.min(200, Math.max(1, Math.round(event.currentTarget.valueAsNumber || 30))) })}
    /></label
  >
{:else if panel.picture === 'silent'}
  {@render ofService(panel.service, (service) => onChange({ ...panel, service }))}
  <label
    >silent for more than
    <input
      class="part num w-[70px]"
      type="number"
      min="1"
      max="44640"
      value={panel.minutes}
      onchange={(event) =>
        onChange({
          ...panel,
          minutes: Math.min(44_640, Math.max(1, Math.round(event.currentTarget.valueAsNumber || 15)))
        })}
    /> minutes</label
  >
{:else if panel.picture === 'resources'}
  {@render ofService(panel.service, (service) => onChange({ ...panel, service }))}
  <label
    >seen in the last
    <input
      class="part num w-[70px]"
      type="number"
      min="1"
      max="720"
      value={panel.hours}
      onchange={(event) =>
        onChange({
          ...panel,
          hours: Math.min(720, Math.max(1, Math.round(event.currentTarget.valueAsNumber || 48)))
        })}
    /> hours</label
  >
{:else if panel.picture === 'status'}
  <label
    >A row for each
    <select
      class="part"
      value={panel.of}
      onchange={(event) => onChange({ ...panel, of: event.currentTarget.value as 'services' | 'groups' })}
    >
      <option value="services">service</option>
      <option value="groups">group</option>
    </select></label
  >
{/if}
