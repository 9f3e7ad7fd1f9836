<script lang="ts">
  import { figureOf } from '$lib/core/board';
  import { hasGaps, unitOfStatistic, valuesOf } from '$lib/core/series';
  import { goto, invalidateAll } from '$app/navigation';
  import { page } from '$app/state';
  import { untrack } from 'svelte';
  import Undo from '@lucide/svelte/icons/undo-2';
  import X from '@lucide/svelte/icons/x';
  import type { CatalogueEntry } from '$lib/core/catalogue';
  import { isPattern } from '$lib/core/pattern';
  import {
    asksFor,
    findingsOf,
    isFormula,
    isOfLines,
    isPick,
    shownRows,
    signalSentence,
    toggleShown,
    type Row,
    type Signal
  } from '$lib/core/signal';
  import { resolveRange, shownRangeFrom, shownRangeSearch, type Duration } from '$lib/core/time';
  import { spanOf } from '$lib/ui/board/data/panel-data.svelte';
  import { conversion, unit } from '$lib/core/units';
  import { Bench } from '$lib/ui/bench/bench.svelte';
  import BenchActions from '$lib/ui/bench/BenchActions.svelte';
  import CataloguePane from '$lib/ui/bench/CataloguePane.svelte';
  import Findings from '$lib/ui/bench/Findings.svelte';
  import LinesPart from '$lib/ui/bench/LinesPart.svelte';
  import FormulaField from '$lib/ui/bench/FormulaField.svelte';
  import PickRow from '$lib/ui/bench/PickRow.svelte';
  import Preview from '$lib/ui/bench/Preview.svelte';
  import { PreviewData } from '$lib/ui/bench/preview-data.svelte';
  import ShapeParts from '$lib/ui/bench/ShapeParts.svelte';
  import { provideHover } from '$lib/ui/chart/hover.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { shownRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  provideHover();
  const preview = new PreviewData(useReader().zone);
  const bench = new Bench(
    untrack(() => data.signal ?? data.kept?.signal ?? null),
    keepInAddress
  );
  const service = $derived(page.url.searchParams.get('service'));
  const shown = $derived(shownRange());
  /** As text, so that it changes only when the range does, not with every change of the address. */
  const shownText = $derived(shownRangeSearch(shown));
  const signal = $derived(bench.signal);

  /** The address holds the signal, so that it can be sent to a colleague. */
  function keepInAddress(next: Signal | null): void {
    const search = new URLSearchParams(page.url.search);
    if (next === null) search.delete('signal');
    else search.set('signal', JSON.stringify(next));
    void goto(`?${search.toString()}`, { replaceState: true, keepFocus: true, noScroll: true });
  }
  // Opened at another saved signal, or stepped back to another address.
  let opened = untrack(() => data.kept?.id ?? null);
  $effect(() => {
    const { kept } = data;
    if ((kept?.id ?? null) === opened) return;
    opened = kept?.id ?? null;
    if (kept && data.signal === null) bench.signal = kept.signal;
  });

  const metricOf = (pattern: string) =>
    (Object.hasOwn(data.metrics, pattern) ? data.metrics[pattern] : undefined) ??
    (isPattern(pattern) ? Object.values(data.metrics).find(({ name }) => asksFor(pattern, name)) : undefined);

  const cells = 700;
  const rangeNow = () =>
    resolveRange(
      shownRangeFrom(new URLSearchParams(shownText)),
      untrack(() => live.now)
    );
  $effect(() => {
    if (bench.signal !== null) void preview.show(bench.signal, rangeNow(), shownText, cells);
  });
  $effect(() =>
    live.on(['samples'], () => {
      if (bench.signal !== null && shown.kind === 'live') void preview.ask(bench.signal, rangeNow(), cells);
    })
  );
  $effect(() => () => preview.stop());

  /** The range as the API takes it; it does not move with the clock, so that names and samples of lines are not read again and again. */
  const span = $derived(spanOf(rangeNow()));
  const answer = $derived(preview.answer);
  const sentence = $derived(
    signal === null
      ? 'Choose a metric to start'
      : signalSentence(signal, metricOf, {
          ...(answer?.rows[0] ? { unit: answer.rows[0].unit } : {}),
          ...(answer && signal.step === 'auto' ? { step: answer.step as Duration } : {})
        })
  );
  const findings = $derived(
    signal === null
      ? []
      : findingsOf(
          signal,
          metricOf,
          answer === null || preview.refusal !== null
            ? null
            : {
                rows: answer.rows,
                notes: answer.notes,
                series: answer.series.length,
                withGaps: answer.series.filter((one) => hasGaps(one, one.complete)).length
              }
        )
  );
  /** The unit before one is chosen to show in: of a plain pick that of its metric, else as it was last computed. */
  let workedUnit = $state<string | null>(null);
  $effect(() => {
    if (signal?.unit === undefined) workedUnit = answer?.rows[0]?.unit ?? null;
  });
  const ownUnit = $derived.by(() => {
    const pick = signal && signal.rows.length === 1 ? signal.rows.find(isPick) : undefined;
    const metric = pick ? metricOf(pick.metric) : undefined;
    return pick && metric ? unitOfStatistic(pick.statistic, metric.unit) : workedUnit;
  });
  /** The newest number, in its own unit. */
  const newest = $derived.by(() => {
    const series = answer?.series[0];
    if (!answer || !series || ownUnit === null) return null;
    const shown = figureOf(valuesOf(series), 'last', series.complete);
    const back = conversion(answer.rows[0]?.unit ?? '1', ownUnit);
    return back.kind === 'unit' && Number.isFinite(shown) ? shown * back.scale + back.offset : null;
  });
  const faultOf = (index: number) => {
    const { refusal } = preview;
    return refusal?.path?.[0] === 'rows' && Number(refusal.path[1]) === index ? refusal : null;
  };
  const placed = $derived(preview.refusal?.path?.[0] === 'rows');

  /** A metric has another unit than before: what is drawn is read again. */
  async function redescribed(): Promise<void> {
    await invalidateAll();
    if (bench.signal !== null) await preview.ask(bench.signal, rangeNow(), cells);
  }

  function use(entry: CatalogueEntry, how: 'add' | 'replace'): void {
    bench.use(entry, how);
  }

  function rename(from: string, to: string): void {
    const row = signal?.rows.find(({ name }) => name === from);
    if (!signal || !row || !/^[A-Za-z][A-Za-z0-9_]{0,39}$/.test(to) || signal.rows.some(({ name }) => name === to))
      return;
    const word = new RegExp(`\\b${from}\\b`, 'g');
    const renamed = signal.rows.map((one) =>
      one.name === from
        ? { ...one, name: to }
        : isFormula(one)
          ? { ...one, formula: one.formula.replace(word, to) }
          : one
    );
    const show = signal.show?.map((name) => (name === from ? to : name));
    bench.set({ ...signal, rows: renamed, ...(show ? { show } : {}) });
  }

  function onKey(event: KeyboardEvent): void {
    const typing = event.target instanceof HTMLElement && event.target.matches('input, textarea, select');
    if ((event.ctrlKey || event.metaKey) && event.key === 'z' && !typing) {
      event.preventDefault();
      bench.undo();
    }
  }
</script>

<svelte:head><title>{signal === null ? 'Bench' : sentence} · Bussola</title></svelte:head>
<svelte:window onkeydown={onKey} />
<main class="flex min-w-0 flex-1 flex-col overflow-hidden px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-start gap-3">
    <h1 class="min-w-[300px] flex-1" data-testid="sentence">{sentence}</h1>
    {#if signal !== null}
      <BenchActions
        {signal}
        {answer}
        kept={data.kept}
        alarm={data.alarm}
        panel={data.panel}
        boards={data.boards}
        {sentence}
        range={shown}
        onUndo={() => bench.undo()}
        mayUndo={bench.mayUndo}
      />
    {:else if bench.mayUndo}
      <button class="btn flex items-center gap-1" onclick={() => bench.undo()}><Undo size={13} />Undo</button>
    {/if}
  </div>
  {#if data.unreadable}<p class="fault mb-2" role="alert">
      The signal in this address cannot be read, perhaps because the address was cut. The bench is empty instead.
    </p>{/if}
  {#if data.missing}<p class="fault mb-2" role="alert">
      This signal no longer exists. <a class="link" href="/signals">See those that are</a>
    </p>{/if}
  <div class="flex min-h-0 flex-1 gap-2.5 max-md:flex-col">
    <CataloguePane
      {service}
      mayReplace={signal?.rows.some(isPick) ?? false}
      onUse={use}
      onChanged={() => void redescribed()}
    />
    <div class="flex min-w-0 flex-1 flex-col gap-2.5 overflow-y-auto">
      {#if signal === null}
        <div class="panel items-start gap-2 p-6!">
          <h2>The bench is empty.</h2>
          <p class="text-quiet">
            Search the catalogue for a metric, read what it is, and add it as a row. Rows can be narrowed, combined, and
            worked together by a formula.
          </p>
          <p>
            <button class="link" onclick={() => bench.addLines('severity >= error')}>Count lines of logs</button>, or
            <a class="link" href="/signals">open a saved signal</a>
          </p>
        </div>
      {:else}
        <section class="panel" aria-label="Rows">
          {#each signal.rows as row, index (index)}
            <div class="border-line flex items-start gap-3 border-b py-1.5">
              <span
                class={[
                  'mt-0.5 flex shrink-0 items-center',
                  shownRows(signal).includes(row.name) ? 'border-deep border-l-4' : 'border-strong border-l-4'
                ]}
              >
                <input
                  class="field w-[84px]! font-mono text-[13px]!"
                  aria-label="Name of row {index + 1}"
                  value={row.name}
                  onchange={(event) => {
                    rename(row.name, event.currentTarget.value.trim());
                    event.currentTarget.value = signal.rows[index]?.name ?? '';
                  }}
                />
              </span>
              {#if isPick(row)}
                <PickRow pick={row} metric={metricOf(row.metric)} onChange={(to: Row) => bench.change(row.name, to)} />
              {:else if isOfLines(row)}
                <LinesPart {row} fault={faultOf(index)} {span} onChange={(to: Row) => bench.change(row.name, to)} />
              {:else}
                <FormulaField
                  {row}
                  fault={faultOf(index)}
                  unit={answer?.rows.find(({ name }) => name === row.name)
                    ? unit(answer.rows.find(({ name }) => name === row.name)?.unit ?? '1').text
                    : null}
                  onChange={(to: Row) => bench.change(row.name, to)}
                />
              {/if}
              <span class="flex shrink-0 items-center gap-2 pt-1.5">
                <label class="text-quiet flex items-center gap-1 text-[12px]"
                  ><input
                    type="checkbox"
                    aria-label="Draw {row.name}"
                    checked={shownRows(signal).includes(row.name)}
                    onchange={() => bench.set(toggleShown(signal, row.name))}
                  />drawn</label
                >
                <button class="text-quiet" aria-label="Take row {row.name} away" onclick={() => bench.remove(row.name)}
                  ><X size={14} /></button
                >
              </span>
            </div>
            {#if faultOf(index) && isPick(row)}<p class="fault py-1 text-[13px]" role="alert">{preview.problem}</p>{/if}
          {/each}
          <div class="flex flex-wrap items-baseline gap-x-6 pt-1.5">
            <button class="text-deep text-[13.5px]" onclick={() => bench.addFormula()}>+ add a formula</button>
            <button class="text-deep text-[13.5px]" onclick={() => bench.addLines('')}>+ count lines</button>
            <ShapeParts {signal} unit={ownUnit} example={newest} onChange={(to: Signal) => bench.set(to)} />
          </div>
        </section>
        <Findings
          title="Look at this"
          findings={findings.filter(({ passed }) => !passed)}
          onMend={(to: Signal) => bench.set(to)}
        />
        <Preview {preview} {signal} {placed} />
        <Findings
          title="In order"
          findings={findings.filter(({ passed }) => passed)}
          onMend={(to: Signal) => bench.set(to)}
        />
      {/if}
    </div>
  </div>
</main>
