<script lang="ts">
  import { DateTime } from 'luxon';
  import { severityName, type ShownLine } from '$lib/core/logs';
  import { useReader } from '../time/reader';
  import LineText from './LineText.svelte';
  import { toneOf } from './tone';

  interface Props {
    lines: readonly (Omit<ShownLine, 'marks' | 'streamId' | 'resourceId'> & { marks?: ShownLine['marks'] })[];
    /** The key of the line that is looked at. */
    chosen?: string | null;
    /** Whether days are named: the lines are of several. */
    hasDays?: boolean;
    /** Whether there is little room: only times and texts. */
    isNarrow?: boolean;
    onChoose: (key: string) => void;
  }
  let { lines, chosen = null, hasDays = false, isNarrow = false, onChoose }: Props = $props();
  const reader = useReader();
  const timeOf = (at: number): string =>
    DateTime.fromMillis(at, { zone: reader.zone }).toFormat(hasDays ? 'd LLL HH:mm:ss.SSS' : 'HH:mm:ss.SSS');
  /** Lines that are alike in everything are told apart from the last one on: where lines come in at the top, the others keep their rows. */
  const keyed = $derived.by(() => {
    const seen = new Map<string, number>();
    return lines
      .toReversed()
      .map((line) => {
        const count = seen.get(line.key) ?? 0;
        seen.set(line.key, count + 1);
        return { line, id: `${line.key} ${count}` };
      })
      .toReversed();
  });
</script>

<table class="rows w-full text-[13px] [&_td]:py-0.5!">
  <tbody>
    {#each keyed as { line, id } (id)}
      <tr
        class={['cursor-pointer align-top', line.key === chosen && 'bg-shallow']}
        aria-current={line.key === chosen}
        onclick={() => onChoose(line.key)}
      >
        <td class="w-[1%] whitespace-nowrap"
          ><button class="num text-quiet" title="Look at this line" onclick={() => onChoose(line.key)}
            >{timeOf(line.at)}</button
          ></td
        >
        {#if !isNarrow}
          <td
            class="num w-[1%] whitespace-nowrap"
            style:color="var(--{toneOf(line.severity)})"
            style:font-weight={line.severity >= 13 ? 700 : 400}>{severityName(line.severity) ?? ''}</td
          >
          <td class="num w-[1%] whitespace-nowrap max-md:hidden"
            >{line.resource === '' ? line.stream : line.resource}</td
          >
        {/if}
        <td class="num"
          >{#if !isNarrow}<span class="text-quiet mr-2 md:hidden"
              >{line.resource === '' ? line.stream : line.resource}</span
            >{/if}<LineText text={line.text} marks={line.marks ?? []} isCut={line.isCut} /></td
        >
      </tr>
    {/each}
  </tbody>
</table>
