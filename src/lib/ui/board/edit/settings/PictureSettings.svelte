<script lang="ts">
  import { reductions, signalsOf, type CellLimit, type Panel } from '$lib/core/board';
  import { statisticName, type QueryAnswer } from '$lib/core/series';
  import { plainPick } from '$lib/core/signal';
  import { unit as unitOf } from '$lib/core/units';
  import { metricOf, type BoardContext, type BoardMetric } from '../../data/board-context.svelte';
  import type { PanelView } from '../../data/panel-view.svelte';
  import GaugeSettings from './GaugeSettings.svelte';
  import LimitList from './LimitList.svelte';
  import OverTimeSettings from './OverTimeSettings.svelte';
  import SnapshotSettings from './SnapshotSettings.svelte';
  import TableSettings from './TableSettings.svelte';

  interface Props {
    panel: Panel;
    answer: QueryAnswer | null;
    view: PanelView;
    metrics: BoardContext['metrics'];
    onChange: (panel: Panel, metric?: BoardMetric) => void;
  }
  let { panel, answer, view, metrics, onChange }: Props = $props();
  const unit = $derived(unitOf(answer?.rows[0]?.unit ?? '1').text);
</script>

{#if 'reduce' in panel}
  <label
    >The figure is the
    <select
      class="part"
      aria-label="Figure"
      value={panel.reduce}
      onchange={(event) => onChange({ ...panel, reduce: event.currentTarget.value as 'last' })}
    >
      {#each reductions as one (one)}<option value={one}
          >{one === 'last' ? 'newest' : one === 'sum' ? 'sum' : statisticName(one)}</option
        >{/each}
    </select>
    {panel.reduce === 'last' ? '' : 'of the cells shown'}</label
  >
{/if}
{#if panel.picture === 'lines' || panel.picture === 'areas' || panel.picture === 'stacked' || panel.picture === 'bars'}
  <OverTimeSettings {panel} {unit} {onChange} />
{:else if panel.picture === 'gauge'}<GaugeSettings {panel} {unit} {onChange} />
{:else if panel.picture === 'snapshot'}
  <SnapshotSettings
    {panel}
    {view}
    {metrics}
    service={signalsOf(panel).flatMap((one) => metricOf(metrics, plainPick(one)?.metric ?? '')?.service ?? [])[0] ??
      null}
    {onChange}
  />
{:else if panel.picture === 'number' || panel.picture === 'ranks' || panel.picture === 'heat'}
  {#if panel.picture === 'number'}
    <label
      ><input
        type="checkbox"
        checked={panel.each ?? false}
        onchange={(event) => onChange({ ...panel, each: event.currentTarget.checked || undefined })}
      /> a tile for each series, not the highest alone</label
    >
  {/if}
  <LimitList
    limits={panel.limits ?? []}
    {unit}
    isOfCells
    onChange={(limits: CellLimit[]) => onChange({ ...panel, limits: limits.length === 0 ? undefined : limits })}
  />
{:else if panel.picture === 'table'}<TableSettings {panel} {answer} {onChange} />
{/if}
