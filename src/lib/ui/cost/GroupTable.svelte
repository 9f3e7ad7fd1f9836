<script lang="ts">
  import {
    selectionWithin,
    changeWords,
    costSearch,
    dimensionWords,
    groupWords,
    moneyText,
    type CostSelection,
    type CostReport,
    type Micros
  } from '$lib/core/cost';
  import Spark from '../chart/Spark.svelte';

  interface Props {
    selection: CostSelection;
    report: CostReport;
    /** What the groups cost on the same days of the month before. */
    earlier: ReadonlyMap<string, Micros>;
    currency: string;
    /** Whether all days are billed. */
    isOver: boolean;
  }
  let { selection, report, earlier, currency, isOver }: Props = $props();
  const most = $derived(Math.max(1, ...report.groups.map(({ total }) => Math.abs(total))));
  const title = $derived(dimensionWords(selection.by));
  /** A change from here on is worth being seen at once. */
  const large = 0.25;
  const isLarge = (now: number, then: number) => then > 0 && (now - then) / then >= large;
</script>

<table class="rows" data-costs={selection.by}>
  <thead
    ><tr
      ><th>{title[0]?.toUpperCase()}{title.slice(1)}</th><th class="right">{isOver ? 'Total' : 'Until now'}</th><th
        class="right">Change</th
      ><th>Each day</th><th class="max-md:hidden">Share</th></tr
    ></thead
  >
  <tbody>
    {#each report.groups as { value, title: name, total, days } (value)}
      {@const then = earlier.get(value) ?? 0}
      {@const words = groupWords(selection.by, value, name)}
      <tr data-group={words}>
        <td class="max-w-[240px]"
          ><a
            class="block truncate hover:underline"
            href="/cost?{costSearch(selectionWithin(selection, value))}"
            title={words}>{words}</a
          >{#if selection.by === 'resource' && value !== ''}<span class="text-quiet block truncate text-[12px]"
              >{value.split('\n')[0]}</span
            >{/if}</td
        >
        <td class="num right whitespace-nowrap">{moneyText(total, currency)}</td>
        <td class={['num right whitespace-nowrap', isLarge(total, then) ? 'fault font-semibold' : '']}
          >{changeWords(total, then) ?? 'new'}</td
        >
        <td><Spark values={days} width={150} height={22} steady={0.4} /></td>
        <td class="w-[24%] max-md:hidden"
          ><span class="bg-deep block h-2" style:width="{Math.max(0, (total / most) * 100)}%"></span></td
        >
      </tr>
    {:else}
      <tr><td colspan="5" class="text-quiet">Nothing was billed on these days.</td></tr>
    {/each}
    {#if report.others.count > 0}
      <tr
        ><td class="text-quiet">{report.others.count} others</td><td class="num right"
          >{moneyText(report.others.total, currency)}</td
        ><td colspan="3"></td></tr
      >
    {/if}
  </tbody>
</table>
