<script lang="ts">
  import { callApi, answerOrNull, wordsOf } from '../../api';
  import { differencesOf, spokenDifference, type Board } from '$lib/core/board';
  import type { Instant } from '$lib/core/time';
  import { useLive } from '../../live/live.svelte';
  import Margin from '../../margin/Margin.svelte';
  import Moment from '../../time/Moment.svelte';
  import type { BoardEditor } from './editor.svelte';

  interface Version {
    readonly version: number;
    readonly madeAt: Instant;
    readonly madeBy: string;
    readonly summary: string;
  }
  interface Past {
    readonly version: number;
    readonly madeAt: Instant;
    readonly board: Board;
  }
  interface Props {
    editor: BoardEditor;
    id: number;
    /** Shows a board as it was, with when that was; null for as it is. */
    onLook: (past: Past | null) => void;
    onClose: () => void;
  }
  let { editor, id, onLook, onClose }: Props = $props();
  const live = useLive();
  let versions = $state.raw<readonly Version[] | null>(null);
  let problem = $state('');
  /** The version that is looked at. */
  let open = $state.raw<Past | null>(null);
  /** What it is compared with: another version, or null for the board as it is now. */
  let other = $state.raw<Past | null>(null);
  const differences = $derived.by(() => {
    if (open === null) return [];
    const [before, after] = [open, other].sort((a, b) => (a?.version ?? Infinity) - (b?.version ?? Infinity));
    return differencesOf(before?.board ?? editor.board, after?.board ?? editor.board);
  });

  async function get<Answer>(path: string): Promise<Answer | null> {
    const reply = await callApi<Answer>('GET', path);
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    return answerOrNull(reply);
  }

  async function read(): Promise<void> {
    versions = (await get<{ versions: Version[] }>(`/boards/${id}/versions`))?.versions ?? versions;
  }
  $effect(() => {
    if (editor.standing.saving === 'saved') void read();
  });

  const readVersion = (version: number) => get<Past>(`/boards/${id}/versions/${version}`);

  async function unfold(version: number): Promise<void> {
    other = null;
    onLook(null);
    open = open?.version === version ? null : await readVersion(version);
  }

  function bringBack(): void {
    if (open === null) return;
    editor.change(open.board);
    open = null;
    onLook(null);
  }
</script>

<Margin title="History" {onClose}>
  <p class="text-quiet mb-2 text-[13px]">
    Every change is saved as a version. Open one to see how the board differs from it now.
  </p>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
  <ol class="text-[13px]">
    {#each versions ?? [] as { version, madeAt, madeBy, summary }, index (version)}
      <li class={['border-line border-b', open?.version === version && 'bg-shallow']}>
        <button
          class="block w-full px-1 py-1 text-left"
          aria-expanded={open?.version === version}
          onclick={() => unfold(version)}
        >
          <b>{summary}</b>
          <span class="text-quiet block text-[12px]"
            ><Moment at={madeAt} now={live.now} /> by {madeBy}{index === 0 ? ', as it is now' : ''}</span
          >
        </button>
        {#if open?.version === version}
          <label class="block px-1"
            >Compared with
            <select
              class="part"
              value={String(other?.version ?? '')}
              onchange={async (event) => {
                const { value } = event.currentTarget;
                other = value === '' ? null : await readVersion(Number(value));
              }}
            >
              <option value="">the board as it is</option>
              {#each (versions ?? []).filter((one) => one.version !== version) as one (one.version)}
                <option value={String(one.version)}>version {one.version}: {one.summary}</option>
              {/each}
            </select></label
          >
          <ul class="list-disc pb-1 pl-6">
            {#each differences as difference, at (at)}<li>{spokenDifference(difference)}</li>{:else}<li
                class="text-quiet list-none"
              >
                They are the same.
              </li>{/each}
          </ul>
          {#if differences.length > 0}
            <button class="btn mb-2 ml-1" onclick={() => onLook(open)}>Look at it</button>
            <button class="btn mb-2 ml-1" onclick={bringBack}>Restore this version</button>
          {/if}
        {/if}
      </li>
    {/each}
  </ol>
  {#if versions === null && !problem}<p class="text-quiet text-[13px]">Reading…</p>{/if}
</Margin>
