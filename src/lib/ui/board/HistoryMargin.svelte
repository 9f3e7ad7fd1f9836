<script lang="ts">
  import { differencesOf, spokenDifference, type Board } from '$lib/core/board';
  import type { Instant } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import Margin from '../margin/Margin.svelte';
  import Moment from '../time/Moment.svelte';
  import type { BoardEditor } from './editor.svelte';

  interface Version {
    readonly version: number;
    readonly madeAt: Instant;
    readonly madeBy: string;
    readonly summary: string;
  }
  interface Props {
    editor: BoardEditor;
    id: number;
    onClose: () => void;
  }
  let { editor, id, onClose }: Props = $props();
  const live = useLive();
  let versions = $state.raw<readonly Version[] | null>(null);
  let problem = $state('');
  /** The version that is looked at. */
  let open = $state.raw<{ version: number; board: Board } | null>(null);
  const differences = $derived(open ? differencesOf(open.board, editor.board) : []);

  async function get<Answer>(path: string): Promise<Answer | null> {
    const response = await fetch(path).catch(() => null);
    problem = response?.ok ? '' : 'The history was not reached. Close it and open it again.';
    return response?.ok ? ((await response.json()) as Answer) : null;
  }

  async function read(): Promise<void> {
    versions = (await get<{ versions: Version[] }>(`/api/v1/boards/${id}/versions`))?.versions ?? versions;
  }
  $effect(() => {
    if (editor.saving === 'kept') void read();
  });

  async function look(version: number): Promise<void> {
    if (open?.version === version) open = null;
    else open = await get<{ version: number; board: Board }>(`/api/v1/boards/${id}/versions/${version}`);
  }

  function bringBack(): void {
    if (open === null) return;
    editor.change(open.board);
    open = null;
  }
</script>

<Margin title="History" {onClose}>
  <p class="text-quiet mb-2 text-[13px]">
    Every change is kept. Open a version to see how the board differs from it now.
  </p>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
  <ol class="text-[13px]">
    {#each versions ?? [] as { version, madeAt, madeBy, summary }, index (version)}
      <li class={['border-line border-b', open?.version === version && 'bg-shallow']}>
        <button
          class="block w-full px-1 py-1 text-left"
          aria-expanded={open?.version === version}
          onclick={() => look(version)}
        >
          <b>{summary}</b>
          <span class="text-quiet block text-[12px]"
            ><Moment at={madeAt} now={live.now} /> by {madeBy}{index === 0 ? ', as it is now' : ''}</span
          >
        </button>
        {#if open?.version === version}
          <ul class="list-disc pb-1 pl-6">
            {#each differences as difference, at (at)}<li>{spokenDifference(difference)}</li>{:else}<li
                class="text-quiet list-none"
              >
                The board is as it was then.
              </li>{/each}
          </ul>
          {#if differences.length > 0}
            <button class="btn mb-2 ml-1" onclick={bringBack}>Bring this version back</button>
          {/if}
        {/if}
      </li>
    {/each}
  </ol>
  {#if versions === null && !problem}<p class="text-quiet text-[13px]">Reading…</p>{/if}
</Margin>
