<script lang="ts">
  import { signalsOf, type Panel } from '$lib/core/board';
  import type { QueryAnswer } from '$lib/core/series';
  import { picksOf } from '$lib/core/signal';
  import { duration, hour, spokenDuration, type Instant } from '$lib/core/time';
  import { useLive } from '../../live/live.svelte';
  import Moment from '../../time/Moment.svelte';
  import { arrivalOf, metricOf, useBoardContext } from '../data/board-context.svelte';

  interface Props {
    panel: Panel;
    answer: QueryAnswer | null;
  }
  let { panel, answer }: Props = $props();
  const boardContext = useBoardContext();
  const live = useLive();
  /** What working the signal out said. */
  const notes = $derived(answer?.notes ?? []);
  const newest = $derived(Math.max(0, ...(answer?.series ?? []).map((series) => series.newest ?? 0)) as Instant);
  /** Samples that come seldom or late need a longer range. */
  const slow = $derived.by(() => {
    const [signal] = signalsOf(panel);
    if (!signal) return '';
    const { samplingMs, delayMs } = arrivalOf(boardContext.metrics, signal);
    if (samplingMs + delayMs < hour) return '';
    const late = delayMs > 0 ? `, up to ${spokenDuration(duration(delayMs))} late` : '';
    return `One comes every ${spokenDuration(duration(samplingMs))}${late}: show a longer range.`;
  });
  let requested = $state(false);
  const unknown = $derived(
    signalsOf(panel)
      .flatMap(picksOf)
      .filter(({ metric }) => metricOf(boardContext.metrics, metric) === undefined)
  );
  const chosen = $derived(
    boardContext.pickers.filter(
      ({ name }) => (boardContext.choices[name] ?? []).length > 0 && !(panel.ignores ?? []).includes(name)
    )
  );
</script>

<div class="text-quiet grid flex-1 place-items-center overflow-y-auto text-center text-[13px]">
  <div>
    <p>Nothing is here to draw.</p>
    {#if requested}
      <ul class="text-left">
        {#each notes as { row, text } (`${row} ${text}`)}<li>{text}</li>{/each}
        {#each unknown as { metric } (metric)}<li>No account brings a metric named {metric}.</li>{/each}
        {#each chosen as { name, title } (name)}
          <li>
            {title} is {(boardContext.choices[name] ?? []).join(', ')}.
            {#each boardContext.pickers.filter((picker) => picker.name === name) as picker (picker.name)}
              <button class="link" onclick={() => boardContext.choose(picker, [])}>Choose all</button>
            {/each}
          </li>
        {/each}
        {#if notes.length === 0 && unknown.length === 0}
          <li>
            Its series have no sample in the shown range.
            {#if newest > 0}The newest is of <Moment at={newest} now={live.now} />.{/if}
            {slow}
            {#if boardContext.who === 'people'}<a class="link" href={boardContext.href('/intake')}
                >See how samples arrive</a
              >{/if}
          </li>
        {/if}
      </ul>
    {:else}<button class="link" onclick={() => (requested = true)}>Why is this empty?</button>{/if}
  </div>
</div>
