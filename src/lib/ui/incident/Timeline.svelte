<script lang="ts">
  import { invalidate } from '$app/navigation';
  import Check from '@lucide/svelte/icons/check';
  import Image from '@lucide/svelte/icons/image';
  import Flag from '@lucide/svelte/icons/flag';
  import Mail from '@lucide/svelte/icons/mail';
  import Pause from '@lucide/svelte/icons/pause';
  import Pencil from '@lucide/svelte/icons/pencil';
  import Wrench from '@lucide/svelte/icons/wrench';
  import Zap from '@lucide/svelte/icons/zap';
  import type { TimelineEntry } from '$lib/core/incident';
  import type { Instant } from '$lib/core/time';
  import { onMount } from 'svelte';
  import SeverityHoist from '../alarm/SeverityHoist.svelte';
  import { callApi, wordsOf } from '../api';
  import { smallerOf } from './smaller-picture';
  import Moment from '../time/Moment.svelte';
  import { useReader } from '../time/reader';

  interface Props {
    incidentId: number;
    timeline: readonly TimelineEntry[];
    now: Instant;
  }
  let { incidentId, timeline, now }: Props = $props();
  const { mayEdit } = useReader();
  const icons = {
    mark: Flag,
    event: Zap,
    message: Mail,
    person: Check,
    note: Pencil,
    held: Pause,
    response: Wrench
  } as const;
  let clean = $state.raw<typeof import('../board/panel/clean-text').cleanText | null>(null);
  onMount(async () => {
    clean = (await import('../board/panel/clean-text')).cleanText;
  });
  let text = $state('');
  let problem = $state('');
  let isBusy = $state(false);
  let field = $state<HTMLTextAreaElement | null>(null);
  let sending = $state('');
  /** Stores pictures, and writes them where the cursor is. */
  async function addPictures(files: readonly File[]): Promise<void> {
    for (const file of files) {
      sending = `Sending ${file.name} …`;
      problem = '';
      const data = await smallerOf(file).catch(() => null);
      if (data === null) problem = `${file.name} is no picture that this browser can read.`;
      else {
        const reply = await callApi<{ id: number }>('POST', `/incidents/${incidentId}/pictures`, { body: { data } });
        if (reply.kind === 'refused') problem = wordsOf(reply.problem);
        if (reply.kind === 'answered') {
          const at = field?.selectionStart ?? text.length;
          text = `${text.slice(0, at)}![${file.name.replace(/[[\]\\]/g, '')}](picture:${reply.answer.id})${text.slice(at)}`;
        }
      }
      sending = '';
    }
  }
  const picturesIn = (list: FileList | undefined): File[] =>
    [...(list ?? [])].filter(({ type }) => type.startsWith('image/'));
  async function add(): Promise<void> {
    isBusy = true;
    const reply = await callApi('POST', `/incidents/${incidentId}/notes`, { body: { text } });
    isBusy = false;
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    // What was typed stays until it is stored.
    if (reply.kind === 'answered') text = '';
    await invalidate('bussola:overview');
  }
</script>

<section class="panel" aria-label="What happened">
  <header>
    <h2>What happened</h2>
    <small>changes before it, states, messages and people, newest last</small>
    <a class="link ml-auto text-[13px]" href="/api/v1/incidents/{incidentId}/review" download>Summary for review</a>
  </header>
  <ol class="text-[13.5px]">
    {#each timeline as { at, kind, text: said, aside, severity, isFault }, index (index)}
      {@const Icon = kind === 'state' || kind === 'incident' ? null : icons[kind]}
      <li class="border-line flex items-baseline gap-3 border-b py-1.5 last:border-0" data-kind={kind}>
        <span class="w-[92px] shrink-0"><Moment {at} {now} /></span>
        <span class={['w-4 shrink-0 self-center', kind === 'mark' || kind === 'note' ? 'text-note' : 'text-quiet']}
          >{#if kind === 'state'}<SeverityHoist {severity} />{:else if Icon}<Icon size={13} />{/if}</span
        >
        {#if kind === 'note'}
          <div class="prose-board min-w-0 flex-1">
            <!-- eslint-disable-next-line svelte/no-at-html-tags (cleaned just there, and tested with hostile text) -->
            {#if clean}{@html clean(
                said,
                (path) => path,
                (id) => `/api/v1/incidents/${incidentId}/pictures/${id}`
              )}{:else}<p class="whitespace-pre-wrap">{said}</p>{/if}
          </div>
        {:else}<span class={['min-w-0 flex-1 break-words', isFault && 'fault', kind === 'state' && 'font-semibold']}
            >{said}</span
          >{/if}
        <span class={['max-w-[40%] text-right text-[12px] break-words', isFault ? 'fault' : 'text-quiet']}>{aside}</span
        >
      </li>
    {:else}<li class="text-quiet">Nothing is recorded.</li>{/each}
  </ol>
  {#if mayEdit}
    <form
      class="mt-2 flex items-end gap-2"
      onsubmit={(event) => {
        event.preventDefault();
        void add();
      }}
    >
      <textarea
        class="field min-h-9"
        rows="2"
        aria-label="Note"
        placeholder="Add a note: what you saw, what you tried (CommonMark), or paste a picture"
        maxlength="10000"
        data-shortcut="n"
        bind:this={field}
        bind:value={text}
        onpaste={(event) => {
          const files = picturesIn(event.clipboardData?.files);
          if (files.length > 0) event.preventDefault();
          void addPictures(files);
        }}
        ondragover={(event) => event.preventDefault()}
        ondrop={(event) => {
          event.preventDefault();
          void addPictures(picturesIn(event.dataTransfer?.files));
        }}></textarea>
      <label class="btn cursor-pointer" title="Add a picture"
        ><Image size={14} /><span class="sr-only">Add a picture</span><input
          class="sr-only"
          type="file"
          accept="image/png,image/jpeg,image/webp,image/gif"
          multiple
          onchange={(event) => {
            void addPictures(picturesIn(event.currentTarget.files ?? undefined));
            event.currentTarget.value = '';
          }}
        /></label
      >
      <button class="btn" disabled={isBusy || sending !== '' || text.trim() === ''}>Add note</button>
    </form>
    {#if sending}<p class="text-quiet text-[13px]" role="status">{sending}</p>{/if}
    {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
  {/if}
</section>
