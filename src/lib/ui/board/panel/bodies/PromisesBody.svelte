<script lang="ts">
  import type { PanelOf } from '$lib/core/board';
  import { shareText, type Objective } from '$lib/core/objective';
  import { peopleDate, type Instant } from '$lib/core/time';
  import SeverityHoist from '../../../alarm/SeverityHoist.svelte';
  import { callApi, wordsOf } from '../../../api';
  import { useLive } from '../../../live/live.svelte';
  import BudgetLeft from '../../../objective/BudgetLeft.svelte';
  import { lastsWords } from '../../../objective/lasts';
  import { levelReached } from '../../../objective/reached';
  import { useReader } from '../../../time/reader';
  import { useBoardContext } from '../../data/board-context.svelte';

  interface Standing {
    readonly from: Instant;
    readonly to: Instant;
    readonly until: Instant;
    readonly share: number | null;
    readonly left: number | null;
    readonly pace: number | null;
    readonly spentAt: Instant | null;
    readonly spentSince: Instant | null;
  }
  interface Listed {
    readonly id: number;
    readonly objective: Objective;
    readonly standing: Standing | null;
    readonly problem: string | null;
  }
  let { panel }: { panel: PanelOf<'promises'> } = $props();
  const boardContext = useBoardContext();
  const live = useLive();
  const { dates } = useReader();
  let all = $state.raw<readonly Listed[] | null>(null);
  let problem = $state('');
  let read = $state(0);
  const isForGuests = $derived(boardContext.who === 'guest');
  $effect(() => live.on(['objectives'], () => void read++));
  $effect(() => {
    void read;
    if (isForGuests) return;
    const asking = new AbortController();
    void callApi<{ objectives: Listed[] }>('GET', '/objectives', { signal: asking.signal }).then((reply) => {
      if (asking.signal.aborted || reply.kind === 'cancelled') return;
      problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
      if (reply.kind === 'answered') all = reply.answer.objectives;
    });
    return () => asking.abort();
  });
  const shown = $derived(
    (all ?? []).filter(({ id, objective }) => objective.enabled && (panel.only.length === 0 || panel.only.includes(id)))
  );
  const lasts = ({ objective, standing }: Listed): string =>
    standing === null
      ? ''
      : lastsWords(
          {
            ...{ left: standing.left, spentAt: standing.spentAt, spentSince: standing.spentSince },
            ...{ until: standing.until, period: { from: standing.from, to: standing.to } }
          },
          objective.period.kind === 'rolling',
          (moment) => peopleDate(moment, dates)
        );
</script>

{#if isForGuests}<p class="text-quiet text-[13px]">Promises are shown to people who have signed in.</p>
{:else if problem !== ''}<p class="fault text-[13px]" role="alert">{problem}</p>
{:else if all === null}<p class="text-quiet grid flex-1 place-items-center text-[13px]">Reading…</p>
{:else if shown.length === 0}<p class="text-quiet text-[13px]">
    No promise yet. <a class="link" href="/objectives">Objectives</a>
  </p>
{:else}
  <div class="min-h-0 flex-1 overflow-y-auto">
    <table class="rows text-[13px]">
      <tbody>
        {#each shown as one (one.id)}
          {@const { id, objective, standing } = one}
          <tr data-promise={objective.name}>
            <td class="w-5"><SeverityHoist severity={standing && levelReached(objective, standing)} /></td>
            <td class="max-w-[180px] truncate"
              ><a class="hover:underline" href={boardContext.href(`/objectives/${id}`)}>{objective.name}</a></td
            >
            {#if standing === null}<td colspan="3" class="fault">{one.problem}</td>
            {:else}
              <td class="num right whitespace-nowrap">{standing.share === null ? '–' : shareText(standing.share)}</td>
              <td class="min-w-[140px]"><BudgetLeft left={standing.left} isSpent={standing.spentSince !== null} /></td>
              <td class="text-quiet whitespace-nowrap">{lasts(one)}</td>
            {/if}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}
