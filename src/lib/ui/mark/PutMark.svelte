<script lang="ts">
  import Flag from '@lucide/svelte/icons/flag';
  import { Popover } from '@skeletonlabs/skeleton-svelte';
  import { DateTime } from 'luxon';
  import { serviceByKey } from '$lib/core/services';
  import type { Instant } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import { useReader } from '../time/reader';
  import { addMark } from './mark-calls';

  interface Props {
    /** The board it can be put on; null on a ready one. */
    board: number | null;
    /** Services it can be put on. */
    services: readonly string[];
  }
  let { board, services }: Props = $props();
  const live = useLive();
  const { zone } = useReader();
  let isOpen = $state(false);
  let text = $state('');
  let from = $state('');
  let to = $state('');
  /** `all`, `board` or the key of a service. */
  let on = $state('all');
  let problem = $state('');

  function opened(details: { open: boolean }): void {
    isOpen = details.open;
    if (!isOpen) return;
    [text, to, problem] = ['', '', ''];
    from = DateTime.fromMillis(live.now, { zone }).toFormat("yyyy-MM-dd'T'HH:mm");
    on = board === null ? (services[0] ?? 'all') : 'board';
  }

  /** Empty when it cannot be read, which the server refuses. */
  const exact = (local: string) => DateTime.fromISO(local, { zone }).toUTC().toISO() ?? '';

  async function put(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    problem = await addMark({
      text,
      from: exact(from),
      ...(to === '' ? {} : { to: exact(to) }),
      ...(on === 'all' ? {} : on !== 'board' ? { service: on } : board === null ? {} : { board })
    });
    if (problem === '') isOpen = false;
  }
  const latest = $derived(
    DateTime.fromMillis((live.now + 366 * 86_400_000) as Instant, { zone }).toFormat("yyyy-MM-dd'T'HH:mm")
  );
</script>

<Popover open={isOpen} onOpenChange={opened} positioning={{ placement: 'bottom-end' }}>
  <Popover.Trigger class="btn flex items-center gap-1"><Flag size={13} />Mark …</Popover.Trigger>
  <Popover.Positioner class="z-30!">
    <Popover.Content class="panel w-[300px] p-3! text-[13px] shadow-none">
      <form class="flex flex-col gap-2" onsubmit={put}>
        <label
          >What happened
          <input class="field" maxlength="200" required placeholder="fares 4.18 deployed" bind:value={text} /></label
        >
        <label>From <input class="field num" type="datetime-local" max={latest} required bind:value={from} /></label>
        <label>To, if it lasted <input class="field num" type="datetime-local" max={latest} bind:value={to} /></label>
        <label
          >Shown on
          <select class="field" bind:value={on}>
            {#if board !== null}<option value="board">this board</option>{/if}
            {#each services as service (service)}<option value={service}>all of {serviceByKey(service).title}</option
              >{/each}
            <option value="all">everything</option>
          </select></label
        >
        {#if problem}<p class="fault" role="alert">{problem}</p>{/if}
        <button class="btn btn-main self-start">Put the mark</button>
      </form>
    </Popover.Content>
  </Popover.Positioner>
</Popover>
