<script lang="ts">
  import { untrack } from 'svelte';
  import { before, day, peopleMoment, textFromInstant, times, type Instant } from '$lib/core/time';
  import { callApi, wordsOf } from '../api';
  import { useLive } from '../live/live.svelte';
  import { useReader } from '../time/reader';

  interface Props {
    me: string;
    /** What people are called. */
    makers: readonly string[];
    signedInAt: Instant;
    kindWords: Readonly<Record<string, string>>;
    /** Keys of what is chosen, such as `/boards/4`. */
    chosen: ReadonlySet<string>;
    mayChoose: boolean;
    /** It is read anew when this changes. */
    read: number;
    onListed: (keys: readonly string[]) => void;
    onToggle: (key: string) => void;
  }
  let { me, makers, signedInAt, kindWords, chosen, mayChoose, read, onListed, onToggle }: Props = $props();
  interface Made {
    readonly kind: string;
    readonly id: number;
    readonly name: string;
    readonly at: Instant;
  }
  const live = useLive();
  const { dates } = useReader();
  let other = $state('');
  const by = $derived(other === '' ? me : other);
  let span = $state<'session' | '1' | '7' | '30'>('session');
  let text = $state('');
  let listed = $state.raw<readonly Made[] | null>(null);
  let problem = $state('');
  const keyOf = ({ kind, id }: Made) => `/${kind}/${id}`;

  $effect(() => {
    void read;
    const now = untrack(() => live.now);
    const since = span === 'session' ? signedInAt : before(now, times(Number(span), day));
    const query = { by, since: textFromInstant(since), text: text.trim() };
    const ending = new AbortController();
    void callApi<{ made: Made[] }>('GET', '/made', { query, signal: ending.signal }).then((reply) => {
      problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
      if (reply.kind !== 'answered') return;
      listed = reply.answer.made;
      onListed(listed.map(keyOf));
    });
    return () => ending.abort();
  });
  const areAllChosen = $derived((listed ?? []).length > 0 && (listed ?? []).every((one) => chosen.has(keyOf(one))));
  function chooseAll(): void {
    const willBe = !areAllChosen;
    for (const one of listed ?? []) if (chosen.has(keyOf(one)) !== willBe) onToggle(keyOf(one));
  }
</script>

<section class="panel col-span-full" aria-label="Made lately">
  <header class="flex-wrap">
    <h2>Made</h2>
    <small class="flex flex-wrap items-center gap-1"
      >by
      <select class="part" aria-label="By whom" bind:value={other}>
        <option value="">{me}</option>
        {#each makers.filter((one) => one !== me) as one (one)}<option>{one}</option>{/each}
      </select>
      since
      <select class="part" aria-label="Since when" bind:value={span}>
        <option value="session">this sign-in</option>
        <option value="1">a day ago</option>
        <option value="7">a week ago</option>
        <option value="30">30 days ago</option>
      </select>
      with
      <input
        class="part w-[160px]"
        aria-label="Name or label"
        placeholder="any name or label"
        bind:value={text}
      /></small
    >
    {#if mayChoose && (listed ?? []).length > 0}<button class="btn ml-auto" onclick={chooseAll}
        >{areAllChosen ? 'Choose none' : 'Choose all'}</button
      >{/if}
  </header>
  {#if problem !== ''}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
  <ul class="max-h-[240px] overflow-y-auto text-[13px]">
    {#each listed ?? [] as one (keyOf(one))}
      <li class="border-line flex items-center gap-2 border-b py-1 last:border-b-0">
        {#if mayChoose}<input
            type="checkbox"
            aria-label="Choose {one.name}"
            checked={chosen.has(keyOf(one))}
            onchange={() => onToggle(keyOf(one))}
          />{/if}
        <span class="min-w-0 truncate"
          >{one.name === '' ? 'without a name' : one.name}
          <span class="text-quiet">{kindWords[one.kind] ?? one.kind}</span></span
        >
        <span class="text-quiet ml-auto whitespace-nowrap">{peopleMoment(one.at, live.now, dates)}</span>
      </li>
    {:else}<li class="text-quiet py-1">
        {listed === null ? 'Looking …' : 'Nothing.'}
      </li>{/each}
  </ul>
</section>
