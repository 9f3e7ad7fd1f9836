<script lang="ts">
  import { callApi, answerOrNull } from '../../../api';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import X from '@lucide/svelte/icons/x';
  import type { CatalogueEntry } from '$lib/core/catalogue';
  import { reductions, type PanelOf, type SnapshotColumn } from '$lib/core/board';
  import { plainSignal, usualStatistic } from '$lib/core/signal';
  import { duration, minute, textFromDuration } from '$lib/core/time';
  import type { BoardMetric } from '../../data/board-context.svelte';

  interface Props {
    panel: PanelOf<'snapshot'>;
    /** The service whose metrics are offered as further columns. */
    service: string | null;
    onChange: (panel: PanelOf<'snapshot'>, metric?: BoardMetric) => void;
  }
  let { panel, service, onChange }: Props = $props();
  let offered = $state.raw<CatalogueEntry[]>([]);

  async function read(of: string | null): Promise<void> {
    const query = { most: '60', service: of ?? undefined };
    const reply = await callApi<{ metrics: CatalogueEntry[] }>('GET', '/metrics', { query });
    offered = answerOrNull(reply)?.metrics ?? offered;
  }
  $effect(() => void read(service));

  const changed = (index: number, to: Partial<SnapshotColumn>) =>
    onChange({ ...panel, columns: panel.columns.map((column, at) => (at === index ? { ...column, ...to } : column)) });

  function add(name: string): void {
    const entry = offered.find((one) => one.name === name);
    if (!entry) return;
    const signal = plainSignal({
      metric: name,
      statistic: usualStatistic(entry.kind),
      step: textFromDuration(duration(Math.max(minute, entry.samplingMs)))
    });
    const column: SnapshotColumn = { title: entry.title.slice(0, 60), signal, reduce: 'last', show: 'shade' };
    onChange({ ...panel, columns: [...panel.columns, column] }, { ...entry, labels: Object.keys(entry.labels) });
  }

  function up(index: number): void {
    const columns = [...panel.columns];
    const [column] = columns.splice(index, 1);
    if (column) columns.splice(Math.max(0, index - 1), 0, column);
    onChange({ ...panel, columns });
  }
</script>

<ol class="flex flex-col gap-1">
  {#each panel.columns as column, index (index)}
    <li class="flex flex-wrap items-center gap-1">
      <input
        class="part w-[120px]"
        aria-label="Title of column {index + 1}"
        value={column.title}
        onchange={(event) => changed(index, { title: event.currentTarget.value })}
      />
      <select
        class="part"
        aria-label="Figure of column {index + 1}"
        value={column.reduce}
        onchange={(event) => changed(index, { reduce: event.currentTarget.value as SnapshotColumn['reduce'] })}
      >
        {#each reductions as one (one)}<option>{one}</option>{/each}
      </select>
      as
      <select
        class="part"
        aria-label="How column {index + 1} is shown"
        value={column.show}
        onchange={(event) => changed(index, { show: event.currentTarget.value as SnapshotColumn['show'] })}
      >
        <option value="number">number</option>
        <option value="shade">shade</option>
        <option value="bar">bar</option>
        <option value="course">course</option>
      </select>
      {#if index > 0}<button class="text-quiet" aria-label="Move {column.title} left" onclick={() => up(index)}
          ><ArrowUp size={13} /></button
        >{/if}
      {#if panel.columns.length > 1}<button
          class="text-quiet"
          aria-label="Take the column {column.title} away"
          onclick={() => onChange({ ...panel, columns: panel.columns.filter((_, at) => at !== index) })}
          ><X size={13} /></button
        >{/if}
    </li>
  {/each}
</ol>
{#if panel.columns.length < 12}
  <label
    >Another column
    <select
      class="part"
      value=""
      onchange={(event) => {
        add(event.currentTarget.value);
        event.currentTarget.value = '';
      }}
    >
      <option value="">choose a metric</option>
      {#each offered as { name, title } (name)}<option value={name}>{title}</option>{/each}
    </select></label
  >
{/if}
<label
  >Rows before the others are folded
  <input
    class="part num w-[60px]"
    type="number"
    min="1"
    max="500"
    value={panel.rows}
    onchange={(event) =>
      onChange({ ...panel, rows: Math.min(500, Math.max(1, Math.round(event.currentTarget.valueAsNumber || 20))) })}
  /></label
>
