<script lang="ts">
  import type { OutlineRow, ParameterRow } from '$lib/core/operations';

  interface Props {
    /** What lies within something, in the order of reading: deeper rows belong to the last one that is less deep. */
    rows: readonly (OutlineRow | ParameterRow)[];
    label: string;
  }
  let { rows, label }: Props = $props();
</script>

<table class="rows text-[13px]" aria-label={label}>
  <tbody>
    {#each rows as row, index (index)}
      {@const { depth, name, kind, isNeeded, says } = row}
      <tr>
        <td class="w-px align-top whitespace-nowrap" style:padding-left="{4 + depth * 14}px"
          ><span class={['num', isNeeded && 'font-semibold']}>{name}</span></td
        >
        <td class="break-words"
          >{kind}{#if 'place' in row}<span class="text-quiet">, in the {row.place}</span>{/if}{#if isNeeded}<span
              class="text-quiet">, needed</span
            >{/if}{#if says !== ''}<span class="text-quiet block">{says}</span>{/if}</td
        >
      </tr>
    {/each}
  </tbody>
</table>
