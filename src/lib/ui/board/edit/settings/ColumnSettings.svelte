<script lang="ts">
  import {
    dateForms,
    figureOf,
    limitsIn,
    reductions,
    type CellLimit,
    type DateForm,
    type Reduction,
    type SnapshotColumn
  } from '$lib/core/board';
  import {
    cannotGive,
    statisticName,
    statistics,
    unitOfStatistic,
    valuesOf,
    type QueryAnswer,
    type Statistic
  } from '$lib/core/series';
  import { picksOf, plainPick, signalSchema, type Signal } from '$lib/core/signal';
  import { conversion, rescaling, unit as unitOf } from '$lib/core/units';
  import UnitChoice from '../../../unit/UnitChoice.svelte';
  import { metricOf, type BoardContext } from '../../data/board-context.svelte';
  import LimitList from './LimitList.svelte';

  interface Props {
    column: SnapshotColumn;
    /** What it shows now; null until it is read. */
    answer: QueryAnswer | null;
    metrics: BoardContext['metrics'];
    onChange: (column: SnapshotColumn) => void;
  }
  let { column, answer, metrics, onChange }: Props = $props();
  const shownUnit = $derived(answer?.rows[0]?.unit ?? '1');
  const pick = $derived(plainPick({ version: 2, rows: column.signal.rows, step: 'PT1M' }));
  const metric = $derived(pick ? metricOf(metrics, pick.metric) : undefined);
  /** The unit before one is chosen. */
  const ownUnit = $derived(
    pick && metric ? unitOfStatistic(pick.statistic, metric.unit) : column.signal.unit === undefined ? shownUnit : null
  );
  const example = $derived.by(() => {
    const series = answer?.series[0];
    if (!series || ownUnit === null) return null;
    const back = conversion(shownUnit, ownUnit);
    const value = figureOf(valuesOf(series), column.reduce, series.complete);
    return back.kind === 'unit' && Number.isFinite(value) ? value * back.scale + back.offset : null;
  });
  const warning = $derived(
    ownUnit === null || column.signal.unit === undefined ? null : rescaling(ownUnit, column.signal.unit, example)
  );
  const isNumber = $derived(column.show !== 'course' && column.show !== 'date');
  const dateWords: Readonly<Record<DateForm, string>> = {
    ago: 'how long ago',
    day: 'its day',
    moment: 'day and time',
    exact: 'exactly, with the zone'
  };

  const withSignal = (to: { [Key in keyof Signal]?: Signal[Key] | undefined }) => {
    const next = Object.fromEntries(
      Object.entries({ ...column.signal, ...to }).filter(([, value]) => value !== undefined)
    );
    return { ...column, signal: signalSchema.parse(next) };
  };
  /** Limits stay where they are: 5,000,000 B becomes 5 MB. */
  function showIn(code: string | undefined): void {
    const limits = column.limits && limitsIn(column.limits, shownUnit, code ?? ownUnit ?? shownUnit);
    onChange({ ...withSignal({ unit: code }), limits });
  }
  const withStatistic = (statistic: Statistic) =>
    onChange(withSignal({ rows: column.signal.rows.map((row) => ('metric' in row ? { ...row, statistic } : row)) }));
</script>

<div class="mt-1 ml-4 flex flex-col gap-1 leading-7">
  <label
    >Title
    <input
      class="part w-[180px]"
      maxlength="60"
      value={column.title}
      onchange={(event) => onChange({ ...column, title: event.currentTarget.value.trim() || column.title })}
    /></label
  >
  <p>
    Shows the
    <select
      class="part"
      aria-label="Figure of {column.title}"
      value={column.reduce}
      onchange={(event) => onChange({ ...column, reduce: event.currentTarget.value as Reduction })}
    >
      {#each reductions as one (one)}<option value={one}>{one === 'last' ? 'newest' : statisticName(one)}</option
        >{/each}
    </select>
    {#if pick}{column.reduce === 'last' ? '' : 'of all'}
      <select
        class="part"
        aria-label="Statistic of {column.title}"
        value={pick.statistic}
        onchange={(event) => withStatistic(event.currentTarget.value as Statistic)}
      >
        {#each statistics.filter((one) => !metric || cannotGive(one, metric.shape, metric.kind) === null) as statistic (statistic)}
          <option value={statistic}>{statisticName(statistic)}</option>
        {/each}
      </select>{/if}
    as
    <select
      class="part"
      aria-label="How {column.title} is shown"
      value={column.show}
      onchange={(event) => onChange({ ...column, show: event.currentTarget.value as SnapshotColumn['show'] })}
    >
      <option value="number">number</option>
      <option value="shade">shaded number</option>
      <option value="bar">bar</option>
      <option value="course">course</option>
      <option value="date">date</option>
    </select>
    {#if column.show === 'date'}
      <select
        class="part"
        aria-label="How the date is written"
        value={column.date ?? 'ago'}
        onchange={(event) => onChange({ ...column, date: event.currentTarget.value as DateForm })}
      >
        {#each dateForms as form (form)}<option value={form}>{dateWords[form]}</option>{/each}
      </select>
    {/if}
  </p>
  {#if isNumber}
    <p>
      in
      <UnitChoice
        label="Unit of {column.title}"
        value={column.signal.unit}
        from={ownUnit}
        {example}
        none="its own unit"
        onChoose={showIn}
      />
      with
      <select
        class="part"
        aria-label="Digits of {column.title}"
        value={column.signal.digits === undefined ? '' : String(column.signal.digits)}
        onchange={(event) =>
          onChange(
            withSignal({ digits: event.currentTarget.value === '' ? undefined : Number(event.currentTarget.value) })
          )}
      >
        <option value="">as many digits as suit</option>
        {#each [0, 1, 2, 3, 4, 5, 6] as count (count)}<option value={String(count)}>{count} after the point</option
          >{/each}
      </select>
    </p>
    <label
      ><input
        type="checkbox"
        checked={column.plain ?? false}
        onchange={(event) => onChange({ ...column, plain: event.currentTarget.checked || undefined })}
      /> bare numbers, without a unit</label
    >
    {#if warning !== null}<p class="leading-snug" role="status"><b class="text-major">!</b> {warning}</p>{/if}
    <LimitList
      limits={column.limits ?? []}
      unit={column.plain ? '' : unitOf(shownUnit).text}
      isOfCells
      onChange={(limits: CellLimit[]) => onChange({ ...column, limits: limits.length === 0 ? undefined : limits })}
    />
  {/if}
  {#if picksOf(column.signal).length === 0}<p class="text-quiet">It is put together by a formula.</p>{/if}
</div>
