<script lang="ts">
  import { graver, severityBalls, type Severity } from '$lib/core/alarm';
  import { limitWords, reached, type PanelOf } from '$lib/core/board';
  import { valuesOf } from '$lib/core/series';
  import SeverityHoist from '../../../alarm/SeverityHoist.svelte';
  import { cellAt, type Duration, type Instant } from '$lib/core/time';
  import { quantityText, unit } from '$lib/core/units';
  import { useHover } from '../../../chart/hover.svelte';
  import { themeColour, useTheme } from '../../../chart/theme.svelte';
  import { useLive } from '../../../live/live.svelte';
  import Moment from '../../../time/Moment.svelte';
  import type { PanelView } from '../../data/panel-view.svelte';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { panel, view, label }: { panel: PanelOf<'heat'>; view: PanelView; label: string } = $props();
  const boardContext = useBoardContext();
  const theme = useTheme();
  const hover = useHover();
  const live = useLive();
  const rowHeight = 18;
  const most = 60;
  let canvas = $state<HTMLCanvasElement>();
  let width = $state(600);
  let row = $state(-1);
  const answer = $derived(view.data('main').answer);
  const code = $derived(answer?.rows[0]?.unit ?? '1');
  const rows = $derived(
    (answer?.series ?? []).slice(0, most).map((series) => {
      const values = valuesOf(series);
      const limits = panel.limits?.length
        ? Array.from(values, (value) => (Number.isNaN(value) ? null : reached(panel.limits, value, series.name)))
        : [];
      const worst = limits.reduce<Severity | null>((worst, limit) => graver(worst, limit?.severity ?? null), null);
      return { ...series, values, limits, worst };
    })
  );
  const ends = $derived.by(() => {
    const { bounds } = unit(code);
    if (bounds) return bounds;
    let [least, largest] = [0, 0];
    for (const { values } of rows)
      for (const value of values) {
        if (value < least) least = value;
        if (value > largest) largest = value;
      }
    return [least, largest] as const;
  });

  $effect(() => {
    const ctx = canvas?.getContext('2d');
    if (!canvas || !ctx || !answer) return;
    void theme.night;
    const ratio = devicePixelRatio;
    canvas.width = width * ratio;
    canvas.height = rows.length * rowHeight * ratio;
    ctx.scale(ratio, ratio);
    const cell = width / answer.count;
    const [low, high] = ends;
    ctx.fillStyle = themeColour('--hue-1');
    for (const [index, { values, limits }] of rows.entries())
      for (const [at, value] of values.entries()) {
        if (Number.isNaN(value)) continue; // a gap stays the ground
        const limit = limits[at];
        if (limit) {
          // As many bands as the severity has balls: colour alone tells nothing.
          ctx.globalAlpha = 1;
          ctx.fillStyle = themeColour(`--${limit.severity}`);
          const bands = severityBalls(limit.severity);
          for (let band = 0; band < bands; band++)
            ctx.fillRect(at * cell, index * rowHeight + band * 4, Math.max(1, cell), 3);
          ctx.fillStyle = themeColour('--hue-1');
          continue;
        }
        ctx.globalAlpha = 0.06 + 0.94 * (high > low ? Math.max(0, Math.min(1, (value - low) / (high - low))) : 0);
        ctx.fillRect(at * cell, index * rowHeight, Math.max(1, cell), rowHeight - 2);
      }
  });

  const cell = $derived(
    answer && hover.at !== null ? cellAt({ ...answer, step: answer.step as Duration }, hover.at) : -1
  );
  const reading = $derived(row >= 0 && cell >= 0 ? quantityText(rows[row]?.values[cell] ?? NaN, code) : '');
  const limit = $derived(row >= 0 && cell >= 0 ? (rows[row]?.limits[cell] ?? null) : null);

  function onMove(event: PointerEvent): void {
    if (!answer) return;
    row = Math.min(rows.length - 1, Math.floor(event.offsetY / rowHeight));
    hover.at = Math.round(answer.start + (event.offsetX / width) * answer.count * answer.step) as Instant;
  }
  function onLeave(): void {
    hover.at = null;
    row = -1;
  }
</script>

<p class="text-quiet flex h-4 items-center gap-2 text-[12px]">
  {#if reading !== '' && hover.at !== null}
    <b class="text-ink">{rows[row]?.name}</b>
    {reading}{limit ? `, ${limit.severity}: ${limitWords(limit, code)}` : ''} at
    <Moment at={hover.at} now={live.now} />
  {:else}
    <span class="num">{quantityText(ends[0], code)}</span>
    <span
      class="h-2 w-24"
      style:background="linear-gradient(90deg, color-mix(in srgb, var(--hue-1) 6%, transparent), var(--hue-1))"
    ></span>
    <span class="num">{quantityText(ends[1], code)}</span>
  {/if}
</p>
<div class="flex min-h-0 flex-1 gap-2 overflow-y-auto">
  <ul class="max-w-[30%] shrink-0 text-[12px]">
    {#each rows as { id, name, resourceId, worst } (id)}
      <li class="flex items-center gap-1.5" style:height="{rowHeight}px">
        <button class="truncate" title={name} onclick={() => boardContext.open(resourceId)}>{name}</button>
        {#if worst}<SeverityHoist severity={worst} />{/if}
      </li>
    {/each}
  </ul>
  <div class="relative min-w-0 flex-1" bind:clientWidth={width}>
    <canvas
      bind:this={canvas}
      class="block w-full"
      style:height="{rows.length * rowHeight}px"
      aria-label={label}
      onpointermove={onMove}
      onpointerleave={onLeave}
    ></canvas>
    {#if answer && cell >= 0 && cell < answer.count}
      <span
        class="bg-quiet pointer-events-none absolute inset-y-0 w-px"
        style:left="{((cell + 0.5) / answer.count) * 100}%"
      ></span>
    {/if}
  </div>
</div>
{#if answer && answer.series.length > most}
  <p class="text-quiet text-[12px]">{answer.series.length - most} more series are not drawn.</p>
{/if}
