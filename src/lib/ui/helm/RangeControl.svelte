<script lang="ts">
  import { DateTime } from 'luxon';
  import {
    day,
    fixedRange,
    hour,
    liveRange,
    minute,
    peopleMoment,
    resolveRange,
    spokenDuration,
    times,
    usualRange,
    type Instant,
    type ShownRange
  } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import { useReader } from '../time/reader';
  import { showRange, shownRange } from '../time/shown';

  const live = useLive();
  const { zone } = useReader();
  const lengths = [times(15, minute), hour, times(3, hour), times(12, hour), day, times(7, day), times(14, day)];
  const shown = $derived(shownRange());
  const words = $derived(
    shown.kind === 'live'
      ? `Last ${spokenDuration(shown.length)}`
      : `${peopleMoment(shown.from, live.now, zone)} to ${peopleMoment(shown.to, live.now, zone)}`
  );
  let open = $state(false);
  let from = $state('');
  let to = $state('');
  let problem = $state<string | null>(null);
  let button: HTMLButtonElement | undefined;

  const local = (at: Instant) => DateTime.fromMillis(at, { zone }).toFormat("yyyy-MM-dd'T'HH:mm");

  /** Opens or closes the list; the fields begin with what is shown. */
  export function toggle(): void {
    open = !open;
    const { from: first, to: last } = resolveRange(shown, live.now);
    [from, to, problem] = [local(first), local(last), null];
  }

  function choose(range: ShownRange): void {
    open = false;
    button?.focus();
    void showRange(range);
  }

  function applyTyped(event: SubmitEvent): void {
    event.preventDefault();
    const [first, last] = [from, to].map((text) => DateTime.fromISO(text, { zone }).toMillis() as Instant);
    try {
      choose(fixedRange(first as Instant, last as Instant));
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
      problem = 'The end must be 1 minute to 400 days after the start.';
    }
  }
</script>

<div class="relative">
  <button
    bind:this={button}
    class="btn border-0! whitespace-nowrap"
    aria-expanded={open}
    onclick={toggle}
    data-range-button
  >
    <b>{words}</b> <span class="text-quiet max-md:hidden">{shown.kind === 'live' ? 'to now' : 'fixed'}</span>
  </button>
  {#if shown.kind === 'fixed'}<button class="btn" onclick={() => choose(usualRange)}>Back to live <kbd>=</kbd></button
    >{/if}
  {#if open}
    <!-- svelte-ignore a11y_no_static_element_interactions -->
    <div
      class="panel absolute right-0 z-20 mt-1 w-72 gap-2"
      onkeydown={(event) => event.key === 'Escape' && (open = false)}
    >
      <div class="flex flex-wrap gap-1">
        {#each lengths as length (length)}
          <button
            class={['btn', shown.kind === 'live' && shown.length === length && 'bg-shallow!']}
            onclick={() => choose(liveRange(length))}>{spokenDuration(length)}</button
          >
        {/each}
      </div>
      <form onsubmit={applyTyped} class="flex flex-col gap-2">
        <label class="text-[13px]"
          >From <input class="field num" type="datetime-local" bind:value={from} required /></label
        >
        <label class="text-[13px]">To <input class="field num" type="datetime-local" bind:value={to} required /></label>
        {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
        <button class="btn btn-main self-start">Show this span</button>
      </form>
      <p class="text-quiet text-[12px]">Times are in {zone}.</p>
    </div>
  {/if}
</div>
