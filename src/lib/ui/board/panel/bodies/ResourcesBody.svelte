<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import { seenStates, type PanelOf } from '$lib/core/board';
  import { serviceByKey } from '$lib/core/services';
  import { hour, times } from '$lib/core/time';
  import { useLive } from '../../../live/live.svelte';
  import Moment from '../../../time/Moment.svelte';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { panel }: { panel: PanelOf<'resources'> } = $props();
  const boardContext = useBoardContext();
  const live = useLive();
  let find = $state('');
  /** Rows shown before the rest is unfolded. */
  const most = 100;
  let unfolded = $state(false);
  const seen = $derived(
    boardContext.things.seen
      .filter(
        ({ service, lastSeenAt, state }) =>
          (panel.service === undefined || service === panel.service) &&
          (state !== 'ended' || live.now - lastSeenAt <= times(panel.hours, hour))
      )
      .sort(
        (a, b) =>
          seenStates.indexOf(a.state) - seenStates.indexOf(b.state) ||
          b.firstSeenAt - a.firstSeenAt ||
          a.name.localeCompare(b.name, 'en', { numeric: true })
      )
  );
  const found = $derived(
    seen.filter(({ name, account, type, state }) =>
      [name, account, type, state].some((text) => text.toLowerCase().includes(find.trim().toLowerCase()))
    )
  );
  const shown = $derived(unfolded ? found : found.slice(0, most));
</script>

<div class="min-h-0 flex-1 overflow-auto">
  <table class="rows">
    <thead class="bg-panel sticky top-0 z-1">
      <tr>
        <th
          ><input
            class="field max-w-[150px] px-1! py-0! text-[12px]!"
            placeholder="Find among {seen.length}"
            aria-label="Find a resource"
            bind:value={find}
          /></th
        >
        <th>State</th><th>First seen</th><th>Last seen</th><th>Account</th>
      </tr>
    </thead>
    <tbody>
      {#each shown as { id, name, account, service, firstSeenAt, lastSeenAt, state } (id)}
        <tr data-state={state}>
          <td
            ><button class="link text-left" onclick={() => boardContext.open(id)}>{name}</button>
            {#if panel.service === undefined}<span class="text-quiet block text-[11.5px]"
                >{serviceByKey(service).one}</span
              >{/if}</td
          >
          <td class={['whitespace-nowrap', state === 'silent' ? 'fault' : state === 'reporting' ? '' : 'font-semibold']}
            >{state}</td
          >
          <td><Moment at={firstSeenAt} now={live.now} /></td>
          <td><Moment at={lastSeenAt} now={live.now} /></td>
          <td class="text-quiet">{account}</td>
        </tr>
      {:else}
        <tr
          ><td colspan="5" class="text-quiet"
            >{find === ''
              ? `No resource was seen in the last ${countOf(panel.hours, 'hour')}.`
              : 'No resource is like this.'}</td
          ></tr
        >
      {/each}
    </tbody>
  </table>
  {#if found.length > most}
    <button class="link mt-1 text-[12px]" onclick={() => (unfolded = !unfolded)}
      >{unfolded ? `Only the first ${most}` : `and ${found.length - most} more`}</button
    >
  {/if}
</div>
