<script lang="ts">
  import { limitWords, reached, type CellLimit, type Figure } from '$lib/core/board';
  import { quantity } from '$lib/core/units';
  import SeverityHoist from '../../alarm/SeverityHoist.svelte';
  import AsOf from './AsOf.svelte';
  import { useBoardContext } from '../data/board-context.svelte';

  interface Props {
    /** One for each series, in the order of the tiles. */
    figures: readonly Figure[];
    /** UCUM code of the figures. */
    code: string;
    digits: number | undefined;
    limits: readonly CellLimit[] | undefined;
  }
  let { figures, code, digits, limits }: Props = $props();
  const boardContext = useBoardContext();
</script>

<ul class="grid min-h-0 flex-1 auto-rows-min grid-cols-[repeat(auto-fill,minmax(116px,1fr))] gap-1.5 overflow-y-auto">
  {#each figures as { series, figure, asOf } (series.id)}
    {@const limit = reached(limits, figure, series.name)}
    {@const shown = quantity(figure, code, digits)}
    <li
      class="border-line rounded-[3px] border px-2 py-1"
      style:border-left={limit ? `4px solid var(--${limit.severity})` : undefined}
      data-tile={series.name}
    >
      <button
        class="block w-full truncate text-left text-[12px]"
        title={series.name}
        onclick={() => boardContext.open(series.resourceId)}>{series.name}</button
      >
      <p class="flex items-baseline gap-1 leading-tight">
        <span class="num text-[18px]! font-bold">{shown.number}</span>
        <span class="text-quiet num text-[12px]!">{shown.unit}</span>
      </p>
      {#if limit}<p class="flex items-center gap-1 text-[11.5px]">
          <SeverityHoist severity={limit.severity} />{limitWords(limit, code)}
        </p>{/if}
      {#if asOf !== null}<p class="text-quiet text-[11.5px]"><AsOf at={asOf} /></p>{/if}
    </li>
  {/each}
</ul>
