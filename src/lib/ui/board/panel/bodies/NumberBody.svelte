<script lang="ts">
  import { completeValues, figuresOf, limitWords, reached, type PanelOf } from '$lib/core/board';
  import { spokenDuration } from '$lib/core/time';
  import { quantity, quantityText } from '$lib/core/units';
  import SeverityHoist from '../../../alarm/SeverityHoist.svelte';
  import { hueOf } from '../../../chart/picture';
  import Spark from '../../../chart/Spark.svelte';
  import AsOf from '../AsOf.svelte';
  import NumberTiles from '../NumberTiles.svelte';
  import type { PanelView } from '../../data/panel-view.svelte';
  import { earlierOf } from '../../data/panel-queries';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { panel, view }: { panel: PanelOf<'number'>; view: PanelView } = $props();
  const boardContext = useBoardContext();
  const answer = $derived(view.data('main').answer);
  const code = $derived(answer?.rows[0]?.unit ?? '1');
  const figures = $derived(answer ? figuresOf(answer, panel.reduce) : []);
  const top = $derived(figures[0]);
  const shown = $derived(quantity(top?.figure ?? NaN, code, panel.signal.digits));
  const course = $derived.by(() => {
    const whole = view.data('course').answer;
    const series = whole?.series.find(({ id }) => id === top?.series.id);
    const values = whole && series ? completeValues(series) : null;
    return values?.every(Number.isNaN) ? null : values; // in a short range, what comes late has none
  });
  /** The gravest limit that the number has passed. */
  const passed = $derived(top ? reached(panel.limits, top.figure, top.series.name) : null);
  const change = $derived.by(() => {
    const shift = earlierOf(panel.earlier, view.earlier === undefined ? boardContext.earlier : view.earlier);
    const old = view.data('earlier').answer;
    if (shift === null || old === null || !top) return '';
    const before = figuresOf(old, panel.reduce).find(({ series }) => series.id === top.series.id)?.figure;
    if (before === undefined)
      return panel.signal.limit && old.series.length > 0
        ? `another one was it ${spokenDuration(shift)} earlier`
        : `nothing is known of ${spokenDuration(shift)} earlier`;
    const words = `${quantityText(before, code, panel.signal.digits)} ${spokenDuration(shift)} earlier`;
    if (before === 0) return words;
    const percent = Math.round(((top.figure - before) / Math.abs(before)) * 100);
    if (percent === 0) return `as ${spokenDuration(shift)} earlier`;
    return `${Math.abs(percent).toLocaleString('en')} % ${percent > 0 ? 'above' : 'below'} ${words}`;
  });
</script>

{#if panel.each && figures.length > 0}
  <NumberTiles {figures} {code} digits={panel.signal.digits} limits={panel.limits} />
{:else if top}
  <div class="flex min-h-0 flex-1 flex-col justify-center">
    <p class="flex items-baseline gap-2 leading-none">
      <span class="num text-[28px]! font-bold" data-testid="figure">{shown.number}</span>
      <span class="text-quiet num">{shown.unit}</span>
      {#if figures.length > 1}
        <span class="min-w-0 truncate text-[13px]">
          <button class="link" onclick={() => boardContext.open(top.series.resourceId)}>{top.series.name}</button>
          <span class="text-quiet">highest of {figures.length}</span>
        </span>
      {/if}
      {#if passed}<span class="flex items-center gap-1 text-[12px]"
          ><SeverityHoist severity={passed.severity} />{limitWords(passed, code)}</span
        >{/if}
    </p>
    <div class="mt-1.5 flex items-end gap-3">
      {#if course}<Spark
          values={course}
          hue={hueOf(Math.max(1, top.series.resourceId)).hue}
          width={110}
          height={30}
        />{/if}
      <span class="text-quiet text-[12px]">
        {#if top.asOf !== null}<AsOf at={top.asOf} />{change && '; '}{/if}{change}
      </span>
    </div>
  </div>
{/if}
