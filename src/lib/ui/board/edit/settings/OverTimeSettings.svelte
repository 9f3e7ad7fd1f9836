<script lang="ts">
  import type { Axis, Bound, Legend, TimePanel } from '$lib/core/board';
  import LimitList from './LimitList.svelte';
  import NumberField from './NumberField.svelte';

  interface Props {
    panel: TimePanel;
    /** The unit of its axis, as it is written. */
    unit: string;
    onChange: (panel: TimePanel) => void;
  }
  let { panel, unit, onChange }: Props = $props();
  const axis = $derived<Axis>(panel.axis ?? {});
  const legend = $derived<Legend>(panel.legend ?? { rows: 3, order: 'highest' });

  function withAxis(to: Partial<Axis>): void {
    const next = Object.fromEntries(
      Object.entries({ ...axis, ...to }).filter(([, value]) => value !== undefined && value !== false)
    );
    onChange({ ...panel, axis: Object.keys(next).length === 0 ? undefined : next });
  }
  const withLegend = (to: Partial<Legend>) => onChange({ ...panel, legend: { ...legend, ...to } });
</script>

<p class="leading-8">
  The axis runs
  <NumberField label="from" value={axis.from} onChange={(from: number | undefined) => withAxis({ from })} />
  <NumberField label="to" value={axis.to} onChange={(to: number | undefined) => withAxis({ to })} />
  {unit}{unit === '' ? '' : ', '}
  <label
    ><input
      type="checkbox"
      checked={axis.log ?? false}
      onchange={(event) => withAxis({ log: event.currentTarget.checked })}
    /> logarithmic</label
  >.
</p>
<p class="leading-8">
  Its table shows
  <input
    class="part num w-[60px]"
    type="number"
    min="0"
    max="50"
    aria-label="Rows of the table"
    value={legend.rows}
    onchange={(event) =>
      withLegend({ rows: Math.min(50, Math.max(0, Math.round(event.currentTarget.valueAsNumber || 0))) })}
  />
  series,
  <select
    class="part"
    aria-label="Order of the series"
    value={legend.order}
    onchange={(event) => withLegend({ order: event.currentTarget.value as Legend['order'] })}
  >
    <option value="highest">highest first</option>
    <option value="lowest">lowest first</option>
    <option value="name">by name</option>
  </select>
</p>
<p class="leading-8">
  Compared with
  <select
    class="part"
    aria-label="Compared with"
    value={panel.earlier ?? ''}
    onchange={(event) =>
      onChange({ ...panel, earlier: event.currentTarget.value === '' ? undefined : event.currentTarget.value })}
  >
    <option value="">nothing</option>
    <option value="PT1H">1 hour earlier</option>
    <option value="P1D">1 day earlier</option>
    <option value="P7D">1 week earlier</option>
    {#if panel.earlier && !['PT1H', 'P1D', 'P7D'].includes(panel.earlier)}<option>{panel.earlier}</option>{/if}
  </select>
</p>
<LimitList
  limits={panel.limits ?? []}
  {unit}
  onChange={(limits: Bound[]) => onChange({ ...panel, limits: limits.length === 0 ? undefined : limits })}
/>
