<script lang="ts">
  import { linesOf, type Signal } from '$lib/core/signal';
  import { before, hour, instant, minute, textFromInstant, times, type Instant } from '$lib/core/time';
  import { answerOrNull, callApi } from '../api';
  import { useReader } from '../time/reader';

  interface Props {
    /** A signal as JSON, as the server wrote it. */
    text: string;
    now: Instant;
  }
  let { text: given, now }: Props = $props();
  const reader = useReader();
  /** How far back it is looked whether its lines are as they were. */
  const lookBack = times(6, hour);
  const signal = $derived(JSON.parse(given) as Signal);
  /** Looked at anew every five minutes. */
  const until = $derived(instant(Math.floor(now / times(5, minute)) * times(5, minute)));
  let notes = $state.raw<readonly { readonly row: string; readonly text: string }[]>([]);
  /** Only numbers of a field can vanish. */
  const isOfField = $derived(linesOf(signal).some(({ of }) => of !== undefined));
  $effect(() => {
    if (!isOfField) return;
    const end = new AbortController();
    const body = {
      signal: { ...signal, step: 'PT5M' },
      from: textFromInstant(before(until, lookBack)),
      to: textFromInstant(until),
      zone: reader.zone
    };
    void callApi<{ notes: typeof notes }>('POST', '/query', { body, signal: end.signal }).then((reply) => {
      notes = answerOrNull(reply)?.notes ?? [];
    });
    return () => end.abort();
  });
</script>

{#each notes as { text } (text)}<p class="text-minor text-[12.5px]" role="status">{text}</p>{/each}
