<script lang="ts">
  import { signalsOf, type Panel, type Picker, type Section } from '$lib/core/board';
  import Margin from '../../margin/Margin.svelte';
  import type { PanelView } from '../data/panel-view.svelte';
  import type { BoardContext, BoardMetric } from '../data/board-context.svelte';
  import PictureSettings from './settings/PictureSettings.svelte';
  import SignalSettings from './settings/SignalSettings.svelte';
  import ThingSettings from './settings/ThingSettings.svelte';

  interface Props {
    panel: Panel;
    view: PanelView;
    metrics: BoardContext['metrics'];
    pickers: readonly Picker[];
    sections: readonly Section[];
    /** Where its signal is composed. */
    bench: string;
    onChange: (panel: Panel, metric?: BoardMetric) => void;
    onSection: (section: string | undefined) => void;
    onDuplicate: () => void;
    onRemove: () => void;
    onClose: () => void;
  }
  let { panel, view, metrics, pickers, sections, bench, onChange, onSection, onDuplicate, onRemove, onClose }: Props =
    $props();
  const signal = $derived(signalsOf(panel)[0]);
  const answer = $derived(view.data(panel.picture === 'snapshot' ? 'column 0' : 'main').answer);

  function follow(name: string, follows: boolean): void {
    const ignores = (panel.ignores ?? []).filter((one) => one !== name);
    const next = follows ? ignores : [...ignores, name];
    onChange({ ...panel, ignores: next.length === 0 ? undefined : next });
  }
</script>

<Margin title="Panel" {onClose}>
  <div class="flex flex-col gap-3 text-[13.5px]">
    <label
      >Title
      <input
        class="field"
        maxlength="120"
        value={panel.title}
        onchange={(event) => onChange({ ...panel, title: event.currentTarget.value })}
      /></label
    >
    <label
      >Description
      <textarea
        class="field h-[52px]"
        maxlength="1000"
        placeholder="What it shows and what to do; seen on hovering over the title, and on paper"
        value={panel.about ?? ''}
        onchange={(event) => onChange({ ...panel, about: event.currentTarget.value.trim() || undefined })}
      ></textarea></label
    >
    {#if signal}<SignalSettings {panel} {signal} {answer} {metrics} {bench} {onChange} />{/if}
    {#if signal}<PictureSettings {panel} {answer} {view} {metrics} {onChange} />{:else}<ThingSettings
        {panel}
        {onChange}
      />{/if}
    {#if (signal || panel.picture === 'log') && pickers.length > 0}
      <p>
        Follows
        {#each pickers as { name, title } (name)}
          <label class="mr-2 whitespace-nowrap"
            ><input
              type="checkbox"
              checked={!(panel.ignores ?? []).includes(name)}
              onchange={(event) => follow(name, event.currentTarget.checked)}
            />
            {title}</label
          >
        {/each}
      </p>
    {/if}
    {#if sections.length > 0}
      <label
        >Lies in
        <select
          class="part"
          value={panel.section ?? ''}
          onchange={(event) => onSection(event.currentTarget.value || undefined)}
        >
          <option value="">the top</option>
          {#each sections as { id, title } (id)}<option value={id}>{title}</option>{/each}
        </select></label
      >
    {/if}
    <p class="flex gap-2">
      <button class="btn" onclick={onDuplicate}>Duplicate</button>
      <button class="btn" onclick={onRemove}>Remove panel</button>
    </p>
  </div>
</Margin>
