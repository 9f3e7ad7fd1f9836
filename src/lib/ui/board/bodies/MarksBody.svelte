<script lang="ts">
  import { page } from '$app/state';
  import { after, hour, textFromInstant, type Instant } from '$lib/core/time';
  import { useLive } from '../../live/live.svelte';
  import Moment from '../../time/Moment.svelte';
  import { useReader } from '../../time/reader';
  import { useScene } from '../scene.svelte';

  const scene = useScene();
  const live = useLive();
  const { mayEdit } = useReader();

  /** The address of the hour after a mark, each panel compared with the hour before it. */
  function around(at: Instant): string {
    const search = new URLSearchParams(page.url.search);
    for (const name of ['range', 'panel']) search.delete(name);
    search.set('from', textFromInstant(at));
    search.set('to', textFromInstant(after(at, hour)));
    search.set('earlier', 'PT1H');
    return `?${search.toString()}`;
  }

  async function takeAway(id: number): Promise<void> {
    await fetch(`/api/v1/marks/${id}`, { method: 'DELETE' }).catch(() => null); // it stays in the list until it is gone
  }
</script>

<ul class="min-h-0 flex-1 overflow-y-auto text-[13.5px]">
  {#each scene.allMarks as { id, from, to, text, source, by } (`${id} ${from} ${text}`)}
    <li class="border-line flex items-center gap-2 border-b py-1 last:border-0">
      <svg
        width="9"
        height="12"
        class={['shrink-0', source === 'provider' ? 'text-quiet' : 'text-note']}
        aria-hidden="true"><path d="M1 0v12M1 1l7 3-7 3" fill="currentColor" stroke="currentColor" /></svg
      >
      <span class="min-w-0"
        >{text}<span class="text-quiet block text-[12px]"
          >{source === 'provider' ? `told by ${by}` : `by ${by}`}
          <a class="link" href={around(from)} title="The hour after it, with the hour before it dotted"
            >an hour before and after</a
          >
          {#if mayEdit && id > 0}<button class="link" onclick={() => takeAway(id)}>take away</button>{/if}</span
        ></span
      >
      <span class="text-quiet ml-auto text-[12px] whitespace-nowrap"
        ><Moment at={from} now={live.now} />{#if to !== null}&nbsp;to <Moment at={to} now={live.now} />{/if}</span
      >
    </li>
  {:else}
    <li class="text-quiet text-[13px]">No mark lies in the shown range.</li>
  {/each}
</ul>
