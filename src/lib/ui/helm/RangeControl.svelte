<script lang="ts">
  import { DateTime } from 'luxon';
  import {
    day,
    fixedRange,
    hour,
    liveRange,
    minute,
    resolveRange,
    spokenDuration,
    times,
    typedRange,
    type Instant,
    type ShownRange
  } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import { useReader } from '../time/reader';
  import { page } from '$app/state';
  import { setParameters } from '../address';
  import { rangeWords, showRange, shownRange, usualShown } from '../time/shown';

  const live = useLive();
  const reader = useReader();
  const zone = $derived(reader.zone);
  const lengths = [times(15, minute), hour, times(3, hour), times(12, hour), day, times(7, day), times(14, day)];
  const shown = $derived(shownRange());
  const words = $derived(rangeWords(shown, live.now, reader.dates));
  let open = $state(false);
  let from = $state('');
  let to = $state('');
  let typed = $state('');
  let problem = $state<string | null>(null);
  const intervals = [
    ['PT0S', 'with every sample'],
    ['PT30S', 'every 30 seconds'],
    ['PT1M', 'every minute'],
    ['PT5M', 'every 5 minutes'],
    ['off', 'not by itself']
  ] as const;
  const steps = [
    ['', 'as set in each panel'],
    ['PT1M', '1 minute'],
    ['PT5M', '5 minutes'],
    ['PT15M', '15 minutes'],
    ['PT1H', '1 hour'],
    ['P1D', '1 day']
  ] as const;
  const refresh = $derived(
    page.url.searchParams.get('refresh') ?? (page.data as { board?: { refresh?: string } }).board?.refresh ?? 'PT0S'
  );
  const step = $derived(page.url.searchParams.get('step') ?? '');
  const note = $derived(
    [
      shown.kind === 'fixed' ? 'fixed' : refresh === 'off' ? 'not read again' : 'to now',
      ...(step === '' ? [] : [`every ${steps.find(([value]) => value === step)?.[1] ?? step}`])
    ].join(', ')
  );
  let button: HTMLButtonElement | undefined;

  const local = (at: Instant) => DateTime.fromMillis(at, { zone }).toFormat("yyyy-MM-dd'T'HH:mm");

  /** Opens or closes the list; the fields begin with what is shown. */
  export function toggle(): void {
    open = !open;
    const { from: first, to: last } = resolveRange(shown, live.now);
    [from, to, problem, typed] = [local(first), local(last), null, ''];
  }

  function choose(range: ShownRange): void {
    open = false;
    button?.focus();
    void showRange(range);
  }

  function applyText(event: SubmitEvent): void {
    event.preventDefault();
    const read = typedRange(typed, live.now, zone);
    if (read.kind === 'read') choose(read.range);
    else problem = read.why;
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
    <b>{words}</b> <span class="text-quiet max-md:hidden">{note}</span>
  </button>
  {#if shown.kind === 'fixed'}<button class="btn" onclick={() => choose(usualShown())}>Back to live <kbd>=</kbd></button
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
      <form onsubmit={applyText} class="flex gap-1">
        <input
          class="field"
          aria-label="Type a range"
          placeholder="last 3 h, 08:00 to 10:00, yesterday"
          autocomplete="off"
          bind:value={typed}
        />
        <button class="btn">Show</button>
      </form>
      <form onsubmit={applyTyped} class="flex flex-col gap-2">
        <label class="text-[13px]"
          >From <input class="field num" type="datetime-local" bind:value={from} required /></label
        >
        <label class="text-[13px]">To <input class="field num" type="datetime-local" bind:value={to} required /></label>
        {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
        <button class="btn btn-main self-start">Show this span</button>
      </form>
      <label class="text-[13px]"
        >Read again
        <select
          class="field"
          value={refresh}
          onchange={(event) => setParameters({ refresh: event.currentTarget.value })}
        >
          {#each intervals as [value, name] (value)}<option {value}>{name}</option>{/each}
        </select></label
      >
      <label class="text-[13px]"
        >Cells of a board’s panels
        <select
          class="field"
          value={step}
          onchange={(event) => setParameters({ step: event.currentTarget.value || null })}
        >
          {#each steps as [value, name] (value)}<option {value}>{name}</option>{/each}
        </select></label
      >
      <p class="text-quiet text-[12px]">
        Times are in {zone}.
        {#if page.url.searchParams.get('zone') === 'UTC'}
          <button class="link" onclick={() => setParameters({ zone: null })}>Use my own zone</button>
        {:else if zone !== 'UTC'}<button class="link" onclick={() => setParameters({ zone: 'UTC' })}>Use UTC</button
          >{/if}
      </p>
    </div>
  {/if}
</div>
