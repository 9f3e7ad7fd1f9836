<script lang="ts">
  import { enhance } from '$app/forms';
  import { page } from '$app/state';
  import { countOf } from '$lib/core/words/count';
  import { useLive } from '$lib/ui/live/live.svelte';
  import { kindWords, stateWords } from '$lib/ui/notify/message-words';
  import AttemptList from '$lib/ui/notify/AttemptList.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data, form: result }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  const views = [
    [null, 'All'],
    ['queued', 'Waiting'],
    ['sent', 'Sent'],
    ['failed', 'Failed'],
    ['superseded', 'Not needed any more'],
    ['withdrawn', 'Withdrawn']
  ] as const;
  const total = $derived(Object.values(data.counts).reduce((sum, count) => sum + count, 0));
  const withParameter = (name: string, value: string | null, without: readonly string[] = []) => {
    const parameters = new URLSearchParams(page.url.searchParams);
    for (const one of [...without, name]) parameters.delete(one);
    if (value !== null) parameters.set(name, value);
    return `?${parameters.toString()}`;
  };
  const heading = $derived(
    (data.counts.failed ?? 0) > 0
      ? `${countOf(data.counts.failed ?? 0, 'message')} could not be sent.`
      : (data.counts.queued ?? 0) > 0
        ? `${countOf(data.counts.queued ?? 0, 'message')} waiting to be sent.`
        : total === 0
          ? 'No message yet.'
          : 'Every message was sent.'
  );
</script>

<svelte:head><title>Outbox · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class={['mb-1', (data.counts.failed ?? 0) > 0 && 'fault']}>{heading}</h1>
  <p class="text-quiet mb-2.5 text-[13px]">
    What is not taken is tried again for a day, ever more slowly, then marked as failed. Every attempt is saved.
  </p>
  {#if result && 'problem' in result}<p class="fault mb-2" role="alert">{result.problem}</p>{/if}
  {#if result && 'done' in result}<p class="text-ok mb-2" role="status">{result.done}</p>{/if}
  <nav class="mb-2 flex flex-wrap gap-1.5 text-[13px]" aria-label="Messages by state">
    {#each views as [state, text] (text)}
      <a
        class={['btn', data.state === state && 'bg-shallow! font-semibold!']}
        aria-current={data.state === state ? 'true' : undefined}
        href={withParameter('state', state, ['before', 'message'])}
        >{text} <span class="num text-quiet">{state === null ? total : (data.counts[state] ?? 0)}</span></a
      >
    {/each}
  </nav>
  <section class="panel overflow-x-auto" aria-label="Messages">
    <table class="rows min-w-[720px]">
      <thead
        ><tr
          ><th>When</th><th>What</th><th>Message</th><th>To</th><th>State</th><th class="right">Tries</th><th></th></tr
        ></thead
      >
      <tbody>
        {#each data.messages as { id, kind, subject, channel, address, state, attempts, lastError, createdAt, incidentIds } (id)}
          <tr data-message={id} class={data.chosen === id ? 'bg-shallow' : ''}>
            <td><Moment at={createdAt} now={live.now} /></td>
            <td class="text-quiet whitespace-nowrap">{kindWords[kind]}</td>
            <td
              ><a
                class="link"
                href={withParameter('message', data.chosen === id ? null : String(id))}
                data-sveltekit-noscroll>{subject}</a
              ></td
            >
            <td>{channel} <span class="text-quiet num block text-[12px]">{address}</span></td>
            <td class={lastError && state !== 'sent' ? 'fault' : 'text-quiet'}>{stateWords(state, lastError)}</td>
            <td class="num right">{attempts}</td>
            <td class="right whitespace-nowrap">
              {#if incidentIds.length === 1}<a class="link" href="/incidents/{incidentIds[0]}">Incident</a>{/if}
              {#if mayEdit && state === 'failed'}<form class="inline" method="post" action="?/resend" use:enhance>
                  <input type="hidden" name="id" value={id} /><button class="btn">Send again</button>
                </form>{/if}
            </td>
          </tr>
          {#if data.chosen === id}
            <tr class="detail" aria-label="Attempts"
              ><td colspan="7"
                >{#if data.attempts.length > 0}<AttemptList
                    name="Try"
                    attempts={data.attempts}
                    now={live.now}
                  />{:else}<span class="text-quiet">No attempt yet.</span>{/if}</td
              ></tr
            >
          {/if}
        {:else}<tr><td colspan="7" class="text-quiet">No message is in this state.</td></tr>{/each}
      </tbody>
    </table>
    {#if data.more}<a
        class="link mt-2 self-start text-[13px]"
        href={withParameter('before', String(data.messages.at(-1)?.id ?? 0), ['message'])}>Older messages</a
      >{/if}
  </section>
</main>
