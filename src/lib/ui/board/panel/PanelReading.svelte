<script lang="ts">
  import { signalsOf, type Panel } from '$lib/core/board';
  import { cannotGive, statisticName, statistics, type Statistic } from '$lib/core/series';
  import { isPick, picksOf, type Signal } from '$lib/core/signal';
  import { day, duration, times } from '$lib/core/time';
  import { metricOf, useBoardContext } from '../data/board-context.svelte';
  import type { PanelView } from '../data/panel-view.svelte';
  import { isOverTime } from './panel-notes';

  interface Props {
    panel: Panel;
    view: PanelView;
    /** Its first signal as it is shown now. */
    signal: Signal;
  }
  let { panel, view, signal }: Props = $props();
  const boardContext = useBoardContext();
  const comparisons = [
    ['nothing', null],
    ['1 day earlier', day],
    ['1 week earlier', times(7, day)]
  ] as const;
  /** Statistics that every pick of the signal can give. */
  const possible = $derived(
    statistics.filter((statistic) =>
      picksOf(signal).every(({ metric }) => {
        const known = metricOf(boardContext.metrics, metric);
        return known === undefined || cannotGive(statistic, known.shape, known.kind) === null;
      })
    )
  );
  const own = $derived(signalsOf(panel)[0]?.rows.find(isPick)?.statistic ?? 'avg');
</script>

{#if isOverTime(panel) || panel.picture === 'number'}
  <label class="flex items-center gap-2 px-2 py-1"
    >Compare with
    <select
      class="field ml-auto w-auto! py-0! text-[13px]!"
      value={view.earlier === undefined ? 'own' : String(view.earlier ?? 'null')}
      onchange={(event) => {
        const { value } = event.currentTarget;
        view.earlier = value === 'own' ? undefined : value === 'null' ? null : duration(Number(value));
      }}
    >
      {#if 'earlier' in panel && panel.earlier}<option value="own">as set in the panel</option>{:else}<option
          value="own">nothing</option
        >{/if}
      {#each comparisons as [name, length] (name)}
        {#if length !== null || ('earlier' in panel && panel.earlier)}
          <option value={String(length)}>{name}</option>
        {/if}
      {/each}
    </select></label
  >
{/if}
{#if (panel.picture === 'lines' || panel.picture === 'areas') && boardContext.who === 'people'}
  <label class="flex items-center gap-2 px-2 py-1"
    >Anomaly band <input type="checkbox" class="ml-auto" bind:checked={view.showsBands} /></label
  >
{/if}
{#if picksOf(signal).length === 1 && panel.picture !== 'snapshot'}
  <label class="flex items-center gap-2 px-2 py-1"
    >Statistic
    <select
      class="field ml-auto w-auto! py-0! text-[13px]!"
      value={view.statistic ?? own}
      onchange={(event) => {
        const chosen = event.currentTarget.value as Statistic;
        view.statistic = chosen === own ? undefined : chosen;
      }}
    >
      {#each possible as statistic (statistic)}<option value={statistic}>{statisticName(statistic)}</option>{/each}
    </select></label
  >
{/if}
