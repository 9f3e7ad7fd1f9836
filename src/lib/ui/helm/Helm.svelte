<script lang="ts">
  import Moon from '@lucide/svelte/icons/moon';
  import Sun from '@lucide/svelte/icons/sun';
  import { duration, peopleDuration, peopleMoment, type Instant } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import RangeControl from './RangeControl.svelte';
  import Rose from './Rose.svelte';
  import type { Destination } from './destination';
  import Search from './Search.svelte';
  import { useReader } from '../time/reader';

  interface HelmWatch {
    readonly rotaId: number;
    readonly rota: string;
    readonly person: string | null;
    readonly until: Instant | null;
    readonly next: string | null;
  }
  interface Props {
    workspace: string;
    person: { displayName: string; role: string };
    /** Start of the newest sample; null when none has arrived. */
    newest: Instant | null;
    /** What the search can find. */
    places: Destination[];
    /** Who has the watch by each rota. */
    onCall: readonly HelmWatch[];
    night: boolean;
    onTheme: () => void;
  }
  let { workspace, person, newest, places, onCall, night, onTheme }: Props = $props();
  const live = useLive();
  const reader = useReader();
  const age = $derived(newest === null ? null : Math.max(0, live.now - newest));
  const late = $derived(age !== null && age > 300_000);
  /** The first rota that somebody has the watch of, or the first of all. */
  const watch = $derived(onCall.find((one) => one.person !== null) ?? onCall[0]);
  const untilText = ({ until, next }: HelmWatch) =>
    until === null
      ? 'for the next weeks'
      : `until ${peopleMoment(until, live.now, reader.dates)}, then ${next ?? 'nobody'}`;
  const initials = $derived(
    person.displayName
      .split(' ')
      .map((part) => part.charAt(0))
      .join('')
      .slice(0, 2)
  );
</script>

<header class="border-strong bg-panel flex h-12 items-center gap-4 border-b px-4 max-md:gap-1 max-md:px-2">
  <a href="/" class="flex w-[190px] shrink-0 max-md:w-auto items-center gap-2 no-underline">
    <Rose />
    <span class="text-[18px] font-bold max-md:hidden">Bussola</span>
    <span class="text-quiet truncate text-[13px] max-md:hidden">{workspace}</span>
  </a>
  <Search {places} />
  <div class="ml-auto flex min-w-0 items-center gap-3 max-md:gap-1">
    <RangeControl />
    {#if !live.connected}
      <span class="text-major font-semibold" role="status">Connection lost, trying again</span>
    {:else if age === null}
      <span class="text-quiet num">no data yet</span>
    {:else}
      <span
        class={['num flex items-center gap-1.5 whitespace-nowrap', late ? 'text-major' : 'text-ok']}
        data-testid="age"
      >
        <span class="size-2 rounded-full bg-current"></span><span class="max-md:hidden">newest</span>
        {peopleDuration(duration(age))} old
      </span>
    {/if}
    {#if watch}
      <details class="relative max-md:hidden">
        <summary class="border-strong cursor-pointer list-none border-l pl-3 leading-tight">
          <span class={['block text-[13px] font-bold whitespace-nowrap', watch.person === null && 'text-major']}
            >On call: {watch.person ?? 'nobody'}</span
          >
          <span class="text-quiet block text-[12px] whitespace-nowrap">{untilText(watch)}</span>
        </summary>
        <div class="panel absolute right-0 z-20 mt-1 w-72 text-[13px]">
          {#each onCall as one (one.rotaId)}
            <p class="py-0.5">
              <b>{one.rota}</b>: <span class={one.person === null ? 'fault' : ''}>{one.person ?? 'nobody'}</span>
              <span class="text-quiet block text-[12px]">{untilText(one)}</span>
            </p>
          {/each}
          <a class="link" href="/rotas">See the rotas</a>
        </div>
      </details>
    {/if}
    <button
      class="btn border-0! px-1.5!"
      onclick={onTheme}
      title={night ? 'Day chart' : 'Night watch'}
      aria-label={night ? 'Switch to the day chart' : 'Switch to the night watch'}
    >
      {#if night}<Sun size={16} />{:else}<Moon size={16} />{/if}
    </button>
    <details class="relative">
      <summary
        class="bg-deep text-panel grid size-7 cursor-pointer list-none place-items-center rounded-full text-[12px] font-bold"
        ><span aria-hidden="true">{initials}</span><span class="sr-only">{person.displayName}, {person.role}</span
        ></summary
      >
      <form method="post" action="/sign-out" class="panel absolute right-0 z-20 mt-1 w-52 gap-1">
        <b>{person.displayName}</b>
        <span class="text-quiet text-[13px]">{person.role}</span>
        <a class="link mt-1" href="/profile">Your profile</a>
        <button class="btn mt-1 self-start">Sign out</button>
      </form>
    </details>
  </div>
</header>
