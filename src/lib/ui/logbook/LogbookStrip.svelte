<script lang="ts">
  import { DateTime } from 'luxon';
  import { severityBalls } from '$lib/core/alarm';
  import { piledUp, type Drawn } from '$lib/core/incident';
  import type { Mark } from '$lib/core/mark';
  import { duration, fixedRange, peopleMoment, resolveRange, type Instant, type Range } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import { useReader } from '../time/reader';
  import { showRange, shownRange } from '../time/shown';

  interface Props {
    /** The span of the strip. */
    span: Range;
    incidents: readonly (Drawn & { readonly id: number })[];
    /** What people and programs noted. */
    marks: readonly Mark[];
  }
  let { span, incidents, marks }: Props = $props();
  const live = useLive();
  const reader = useReader();
  const zone = $derived(reader.zone);
  const height = 36;
  let width = $state(1280);
  /** A little beyond now, so that what happens now is not on the very edge. */
  const end = $derived((Math.max(span.to, live.now) + (span.to - span.from) * 0.012) as Instant);
  const start = $derived((end - (span.to - span.from)) as Instant);
  const place = (at: number) => ((at - start) / (end - start)) * width;
  const instantAt = (x: number) =>
    Math.round(start + (Math.min(width, Math.max(0, x)) / width) * (end - start)) as Instant;
  const piles = $derived(piledUp(incidents, duration(Math.ceil((span.to - span.from) / Math.max(1, width)))));
  const days = $derived.by(() => {
    const found: { at: number; name: string }[] = [];
    let midnight = DateTime.fromMillis(start, { zone }).startOf('day');
    for (; midnight.toMillis() < end; midnight = midnight.plus({ days: 1 }))
      found.push({ at: midnight.toMillis(), name: midnight.toFormat(width < 900 ? 'd' : 'ccc d') });
    return found;
  });
  const shown = $derived(resolveRange(shownRange(), live.now));
  /** The window while it is dragged. */
  let dragged = $state<{ from: number; to: number } | null>(null);
  const windowFrom = $derived(place(dragged?.from ?? shown.from));
  const windowTo = $derived(place(dragged?.to ?? shown.to));

  type Grip = 'from' | 'to' | 'both';
  let grip: { what: Grip; x: number; from: number; to: number } | null = null;

  function grab(event: PointerEvent): void {
    const x = event.offsetX;
    const near = (edge: number) => Math.abs(x - edge) < 6;
    const inside = x > windowFrom && x < windowTo;
    const half = (shown.to - shown.from) / 2;
    const middle = instantAt(x);
    const what: Grip = near(windowFrom) ? 'from' : near(windowTo) ? 'to' : 'both';
    const from = what === 'both' && !inside ? Math.min(middle - half, live.now - 2 * half) : shown.from;
    const to = what === 'both' && !inside ? Math.min(middle + half, live.now) : shown.to;
    grip = { what, x, from, to };
    dragged = { from, to };
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
  }

  function drag(event: PointerEvent): void {
    if (grip === null) return;
    const moved = ((event.offsetX - grip.x) / width) * (end - start);
    const least = 60_000;
    if (grip.what === 'from') dragged = { from: Math.min(grip.from + moved, grip.to - least), to: grip.to };
    else if (grip.what === 'to')
      dragged = { from: grip.from, to: Math.min(live.now, Math.max(grip.to + moved, grip.from + least)) };
    else {
      const by = Math.min(moved, live.now - grip.to);
      dragged = { from: grip.from + by, to: grip.to + by };
    }
  }

  async function drop(): Promise<void> {
    if (dragged !== null)
      await showRange(fixedRange(Math.round(Math.max(0, dragged.from)) as Instant, Math.round(dragged.to) as Instant));
    grip = dragged = null;
  }
</script>

<div class="border-strong bg-sunk border-b" bind:clientWidth={width}>
  <svg
    {width}
    {height}
    class="block touch-none cursor-ew-resize"
    role="img"
    aria-label="Logbook of 14 days: {incidents.length} raised periods. Drag the window to move in time; [ and ] step."
    onpointerdown={grab}
    onpointermove={drag}
    onpointerup={drop}
  >
    {#each days as { at, name } (at)}
      <line x1={place(at)} x2={place(at)} y1="0" y2={height} stroke="var(--line-strong)" />
      <text x={place(at) + 5} y="12" class="fill-quiet num" font-size="10.5">{name}</text>
    {/each}
    {#each piles as { first: { id, severity, openedAt, closedAt }, words } (id)}
      <g fill="var(--{severity})">
        <title
          >{words}, {peopleMoment(openedAt, live.now, reader.dates)} to {closedAt === null
            ? 'now'
            : peopleMoment(closedAt, live.now, reader.dates)}</title
        >
        {#each { length: severityBalls(severity) } as _, ball (ball)}
          <rect
            x={place(openedAt)}
            y={31 - ball * 4}
            width={Math.max(3, place(closedAt ?? live.now) - place(openedAt))}
            height="3"
          />
        {/each}
      </g>
    {/each}
    {#each marks as { id, from, to, text } (id)}
      <g class="fill-note">
        <title
          >{text}, {peopleMoment(from, live.now, reader.dates)}{to === null
            ? ''
            : ` to ${peopleMoment(to, live.now, reader.dates)}`}</title
        >
        {#if to !== null}<rect
            x={place(from)}
            y="14"
            width={Math.max(1, place(to) - place(from))}
            height="22"
            fill-opacity="0.14"
          />{/if}
        <rect x={place(from)} y="14" width="1" height="22" />
        <path d="M{place(from) + 1} 14l7 4-7 4z" />
      </g>
    {/each}
    <rect
      x={windowFrom + 1}
      y="1"
      width={Math.max(4, windowTo - windowFrom - 2)}
      height={height - 2}
      fill="var(--deep)"
      fill-opacity="0.12"
      stroke="var(--deep)"
      stroke-width="2"
      pointer-events="none"
    />
    <rect x={windowFrom - 2} y="11" width="5" height="14" rx="2" fill="var(--deep)" pointer-events="none" />
  </svg>
</div>
