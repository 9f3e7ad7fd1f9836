<script lang="ts">
  import type { RehearsalAnswer } from '$lib/core/alarm';
  import { timeTicks, range as rangeOf } from '$lib/core/time';
  import { useReader } from '../time/reader';
  import type { PartLane } from './part-history.svelte';

  interface Props {
    lanes: readonly PartLane[];
    /** What the whole would have done; null while it is replayed. */
    whole: RehearsalAnswer | null;
  }
  let { lanes, whole }: Props = $props();
  const { zone } = useReader();
  const width = 1000;
  const span = $derived(whole && rangeOf(whole.from, whole.to));
  const x = (at: number) =>
    span === null ? 0 : Math.min(width, Math.max(0, ((at - span.from) / Math.max(1, span.to - span.from)) * width));
  const ticks = $derived(span === null ? [] : timeTicks(span, zone, 8));
  /** A short stretch is still seen. */
  const least = 2;
</script>

<div class="grid grid-cols-[minmax(90px,180px)_1fr] items-center gap-x-3 gap-y-1.5 text-[13px]" data-testid="lanes">
  {#each lanes as { name, held, problem }, index (index)}
    <span class="truncate" title={name}>{name}</span>
    {#if problem}<span class="fault truncate text-[12px]" title={problem}>{problem}</span>
    {:else}<svg
        viewBox="0 0 {width} 10"
        preserveAspectRatio="none"
        class="bg-sunk h-[10px] w-full rounded-[2px]"
        role="img"
        aria-label="{name}: {held === null ? 'being looked up' : `held ${held.length} times`}"
      >
        {#if span !== null}{#each held ?? [] as { from, to }, of (of)}<rect
              x={x(from)}
              width={Math.max(least, x(to) - x(from))}
              y="1"
              height="8"
              fill="var(--note)"
            />{/each}{/if}
      </svg>{/if}
  {/each}
  <b>The whole</b>
  <svg
    viewBox="0 0 {width} 16"
    preserveAspectRatio="none"
    class="bg-sunk h-[16px] w-full rounded-[2px]"
    role="img"
    aria-label="The whole: raised {whole?.figures.count ?? 0} times"
  >
    {#each whole?.periods ?? [] as { from, to, severity }, of (of)}<rect
        x={x(from)}
        width={Math.max(least, x(to ?? whole?.to ?? from) - x(from))}
        y="1"
        height="14"
        fill="var(--{severity})"
      />{/each}
  </svg>
  <span></span>
  <span class="text-quiet num flex justify-between text-[11px]" aria-hidden="true"
    >{#each ticks as { at, text } (at)}<span>{text}</span>{/each}</span
  >
</div>
