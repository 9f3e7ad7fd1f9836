<script lang="ts">
  import { untrack } from 'svelte';
  import { wordNames, type MessageTemplates } from '$lib/core/notify';
  import { peopleMoment } from '$lib/core/time';
  import { callApi, wordsOf } from '$lib/ui/api';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  interface Preview {
    readonly mail: {
      readonly subject: string;
      readonly heading: string;
      readonly sentence: string;
      readonly rows: readonly (readonly [string, string])[];
    };
    readonly short: string;
  }
  let { data }: PageProps = $props();
  const live = useLive();
  const reader = useReader();
  // What is typed stays, whatever arrives meanwhile.
  let stored = $state.raw(untrack(() => data.stored));
  let templates = $state<MessageTemplates>({ ...untrack(() => data.stored.templates) });
  let incidentId = $state(untrack(() => data.incidents[0]?.id ?? 0));
  let preview = $state.raw<Preview | null>(null);
  let problem = $state('');
  let says = $state('');
  let isBusy = $state(false);
  const isUsual = $derived(Object.values(templates).every((text) => text.trim() === ''));
  const isChanged = $derived(JSON.stringify(templates) !== JSON.stringify(stored.templates));
  const parts = [
    { part: 'subject', name: 'Subject of a mail', rows: 2, example: '{{severity}} on {{subject}}: {{what}} {{value}}' },
    { part: 'text', name: 'Text of a mail', rows: 9, example: '{{text}}\n{{#rows}}\n{{name}}: {{text}}\n{{/rows}}' },
    {
      part: 'short',
      name: 'Text message and push notification',
      rows: 2,
      example: '{{severity}} {{subject}}, {{value}}'
    }
  ] as const;

  const pauseMs = 250;
  $effect(() => {
    const body = { templates: { ...templates }, incidentId };
    if (incidentId === 0) return;
    const leave = new AbortController();
    const timer = setTimeout(() => {
      void callApi<Preview>('POST', '/message-templates/preview', { body, signal: leave.signal }).then((reply) => {
        if (reply.kind === 'answered') [preview, problem] = [reply.answer, ''];
        if (reply.kind === 'refused') problem = wordsOf(reply.problem);
      });
    }, pauseMs);
    return () => {
      clearTimeout(timer);
      leave.abort();
    };
  });
  async function save(): Promise<void> {
    isBusy = true;
    const body = { templates: { ...templates }, version: stored.version };
    const reply = await callApi<typeof stored>('PUT', '/message-templates', { body });
    isBusy = false;
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    if (reply.kind !== 'answered') return;
    stored = reply.answer;
    says = 'Saved. The next message is written so.';
  }
</script>

<svelte:head><title>What messages say · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <p class="text-[13px]"><a class="link" href="/channels">Channels</a></p>
  <h1 class="mb-1">What messages say</h1>
  <p class="text-quiet mb-3 text-[13px]">
    {#if stored.version === 0 || Object.values(stored.templates).every((text) => text === '')}Messages about incidents
      have the usual words. Whatever you leave empty stays so.{:else}Changed <Moment
        at={stored.changedAt ?? live.now}
        now={live.now}
      /> by {stored.changedBy}. Whatever is empty has the usual words.{/if} Links to open and to acknowledge are always added.
  </p>
  <div class="grid items-start gap-3 lg:grid-cols-2">
    <form
      class="panel gap-3"
      aria-label="Words"
      onsubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      {#each parts as { part, name, rows, example } (part)}
        <label
          ><span class="mb-1 block text-[13px] font-semibold">{name}</span><textarea
            class="field num text-[13px]"
            {rows}
            placeholder={example}
            readonly={!reader.mayEdit}
            bind:value={templates[part]}
            oninput={() => (says = '')}></textarea></label
        >
      {/each}
      {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
      {#if says}<p class="text-ok text-[13px]" role="status">{says}</p>{/if}
      {#if reader.mayEdit}<p class="flex gap-2">
          <button class="btn btn-main" disabled={isBusy || !isChanged}>Save</button>
          <button
            type="button"
            class="btn"
            disabled={isUsual}
            onclick={() => (templates = { subject: '', text: '', short: '' })}>Use the usual words</button
          >
        </p>{/if}
      <details class="text-[13px]">
        <summary>Names in double braces</summary>
        <dl class="mt-1 grid grid-cols-[max-content_1fr] gap-x-3 gap-y-0.5">
          {#each Object.entries(wordNames) as [name, meaning] (name)}<dt class="num">{`{{${name}}}`}</dt>
            <dd class="text-quiet">{meaning}</dd>{/each}
        </dl>
      </details>
    </form>
    <section class="panel gap-3" aria-label="Preview">
      {#if data.incidents.length === 0}<p class="text-quiet text-[13px]">
          Nothing was raised in 90 days, so there is nothing to show the words on.
        </p>
      {:else}
        <label class="text-[13px]"
          >As it would have been for
          <select class="field mt-1" aria-label="Incident" bind:value={incidentId}>
            {#each data.incidents as { id, subject, alarm, severity, openedAt } (id)}<option value={id}
                >{peopleMoment(openedAt, live.now, reader.dates)}, {severity}, {subject}: {alarm}</option
              >{/each}
          </select></label
        >
        {#if preview}
          <article class="border-line border bg-(--ground) p-3" aria-label="Mail">
            <p class="text-quiet text-[12px]">Mail</p>
            <p class="border-line mb-2 border-b pb-1 font-semibold break-words">{preview.mail.subject}</p>
            <h2 class="text-[16px]!">{preview.mail.heading}</h2>
            <p class="my-1 break-words whitespace-pre-line">{preview.mail.sentence}</p>
            <dl class="grid grid-cols-[max-content_1fr] gap-x-3 text-[13px]">
              {#each preview.mail.rows as [name, text], index (index)}<dt class="text-quiet">{name}</dt>
                <dd class="min-w-0 break-words">{text}</dd>{/each}
            </dl>
          </article>
          <article class="border-line border bg-(--ground) p-3" aria-label="Text message">
            <p class="text-quiet text-[12px]">Text message, {[...preview.short].length} of 160 characters</p>
            <p class="num text-[13px] [overflow-wrap:anywhere]">{preview.short}</p>
          </article>
        {/if}
      {/if}
    </section>
  </div>
</main>
