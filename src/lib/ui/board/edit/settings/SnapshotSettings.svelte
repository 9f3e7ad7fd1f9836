<script lang="ts">
  import { callApi, answerOrNull } from '../../../api';
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import X from '@lucide/svelte/icons/x';
  import type { CatalogueEntry } from '$lib/core/catalogue';
  import type { PanelOf, SnapshotColumn } from '$lib/core/board';
  import { plainSignal, usualStatistic } from '$lib/core/signal';
  import { duration, minute, textFromDuration } from '$lib/core/time';
  import type { PanelView } from '../../data/panel-view.svelte';
  import type { BoardContext, BoardMetric } from '../../data/board-context.svelte';
  import ColumnSettings from './ColumnSettings.svelte';

  interface Props {
    panel: PanelOf<'snapshot'>;
    view: PanelView;
    metrics: BoardContext['metrics'];
    /** The service whose metrics are offered as further columns. */
    service: string | null;
    onChange: (panel: PanelOf<'snapshot'>, metric?: BoardMetric) => void;
  }
  let { panel, view, metrics, service, onChange }: Props = $props();
  let offered = $state.raw<CatalogueEntry[]>([]);

  async function read(of: string | null): Promise<void> {
    const query = { limit: '60', service: of ?? undefined };
    const reply = await callApi<{ metrics: CatalogueEntry[] }>('GET', '/metrics', { query });
    offered = answerOrNull(reply)?.metrics ?? offered;
  }
  $effect(() => void read(service));

  const replace = (index: number, to: SnapshotColumn) =>
    onChange({ ...panel, columns: panel.columns.map((column, at) => (at === index ? to : column)) });
  /** The column whose settings are unfolded; null for none. */
  let open = $state<number | null>(null);

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
    <li class="border-line border-b pb-1">
      <div class="flex items-center gap-1">
        <button
          class="flex min-w-0 flex-1 items-center gap-1 text-left"
          aria-expanded={open === index}
          onclick={() => (open = open === index ? null : index)}
        >
          {#if open === index}<ChevronDown size={14} />{:else}<ChevronRight size={14} />{/if}<span class="truncate"
            >{column.title}</span
          >
        </button>
        {#if index > 0}<button class="text-quiet" aria-label="Move {column.title} left" onclick={() => up(index)}
            ><ArrowUp size={13} /></button
          >{/if}
        {#if panel.columns.length > 1}<button
            class="text-quiet"
            aria-label="Remove the column {column.title}"
            onclick={() => (
              (open = null),
              onChange({ ...panel, columns: panel.columns.filter((_, at) => at !== index) })
            )}><X size={13} /></button
          >{/if}
      </div>
      {#if open === index}<ColumnSettings
          {column}
          {metrics}
          answer={view.data(`column ${index}`).answer}
          onChange={(to: SnapshotColumn) => replace(index, to)}
        />{/if}
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
