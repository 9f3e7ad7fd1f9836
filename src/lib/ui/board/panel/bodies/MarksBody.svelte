<script lang="ts">
  import { page } from '$app/state';
  import type { Mark } from '$lib/core/mark';
  import { after, hour, textFromInstant, type Instant } from '$lib/core/time';
  import { addMark, removeMark } from '../../../mark/mark-calls';
  import { useLive } from '../../../live/live.svelte';
  import Moment from '../../../time/Moment.svelte';
  import { useReader } from '../../../time/reader';
  import { useBoardContext } from '../../data/board-context.svelte';

  const boardContext = useBoardContext();
  const live = useLive();
  const { mayEdit } = useReader();
  /** What was taken away last. */
  let taken = $state.raw<Mark | null>(null);
  let problem = $state('');

  /** The address of the hour after a mark, each panel compared with the hour before it. */
  function around(at: Instant): string {
    const search = new URLSearchParams(page.url.search);
    for (const name of ['range', 'panel']) search.delete(name);
    search.set('from', textFromInstant(at));
    search.set('to', textFromInstant(after(at, hour)));
    search.set('earlier', 'PT1H');
    return `?${search.toString()}`;
  }

  async function takeAway(mark: Mark): Promise<void> {
    problem = await removeMark(mark.id);
    if (problem === '') taken = mark;
  }

  async function putBack({ text, from, to, board, service }: Mark): Promise<void> {
    problem = await addMark({
      text,
      from: textFromInstant(from),
      ...(to === null ? {} : { to: textFromInstant(to) }),
      ...(board === null ? {} : { board }),
      ...(service === null ? {} : { service })
    });
    if (problem === '') taken = null;
  }
</script>

{#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
{#if taken}
  {@const mark = taken}
  <p class="text-quiet text-[13px]" role="status">
    “{mark.text}” was removed. <button class="link" onclick={() => putBack(mark)}>Restore</button>
  </p>
{/if}
<ul class="min-h-0 flex-1 overflow-y-auto text-[13.5px]">
  {#each boardContext.allMarks as mark (`${mark.id} ${mark.from} ${mark.text}`)}
    {@const { id, from, to, text, source, by } = mark}
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
          {#if mayEdit && id > 0}<button class="link" onclick={() => takeAway(mark)}>remove</button>{/if}</span
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
