<script lang="ts">
  import type { ListedAlarm } from '$lib/core/alarm';
  import { serviceByKey } from '$lib/core/services';
  import { duration, peopleDuration, type Instant, type Range } from '$lib/core/time';
  import Moment from '../time/Moment.svelte';
  import { withRange } from '../time/shown';
  import RaisedStrip from './RaisedStrip.svelte';
  import SeverityHoist from './SeverityHoist.svelte';

  interface Props {
    alarms: readonly ListedAlarm[];
    /** Ids of those that are chosen. */
    chosen: readonly number[];
    mayEdit: boolean;
    now: Instant;
    /** What the small charts show. */
    span: Range;
    onChoose: (ids: readonly number[]) => void;
  }
  let { alarms, chosen, mayEdit, now, span, onChoose }: Props = $props();
  const picked = $derived(new Set(chosen));
  /** The row that was clicked last: with the shift key, all up to it are chosen as well. */
  let last = $state(-1);

  function toggle(index: number, isShift: boolean): void {
    const wanted = !picked.has(alarms[index]?.id ?? -1);
    const [from, to] = isShift && last >= 0 ? [Math.min(last, index), Math.max(last, index)] : [index, index];
    const ids = new Set(chosen);
    for (const { id } of alarms.slice(from, to + 1))
      if (wanted) ids.add(id);
      else ids.delete(id);
    last = index;
    onChoose([...ids]);
  }
  const noiseText = ({ noise: { count, flapping } }: ListedAlarm) =>
    `${count}${flapping > 0 ? `, ${flapping} again within an hour` : ''}`;
</script>

<section class="panel overflow-x-auto" aria-label="Alarms">
  <table class="rows">
    <thead
      ><tr
        >{#if mayEdit}<th class="w-6"
            ><input
              type="checkbox"
              aria-label="Choose all"
              checked={alarms.length > 0 && alarms.every(({ id }) => picked.has(id))}
              onchange={(event) => onChoose(event.currentTarget.checked ? alarms.map(({ id }) => id) : [])}
            /></th
          >{/if}<th></th><th>Alarm</th><th>State</th><th>30 days</th><th class="right">Raised</th><th>Owner</th><th
          >Changed</th
        ></tr
      ></thead
    >
    <tbody>
      {#each alarms as alarm, index (alarm.id)}
        {@const { id, name, enabled, raised, indeterminate, clear, raisedAs, since, notifies } = alarm}
        <tr data-alarm={name} class={enabled ? '' : 'opacity-60'}>
          {#if mayEdit}<td class="align-top"
              ><input
                type="checkbox"
                aria-label="Choose {name}"
                checked={picked.has(id)}
                onclick={(event) => toggle(index, event.shiftKey)}
              /></td
            >{/if}
          <td class="w-6 align-top"
            ><SeverityHoist severity={raisedAs} indeterminate={!enabled || (clear === 0 && raised === 0)} /></td
          >
          <td class="max-w-[420px] align-top"
            ><a class="font-semibold hover:underline" href={withRange(`/alarms/${id}`)}>{name}</a>
            <span class="text-quiet text-[12px]"
              >{alarm.services.map((key) => serviceByKey(key).title.toLowerCase()).join(', ')}</span
            ><span class="text-quiet line-clamp-2 text-[12px]">{alarm.sentence}</span>{#if alarm.lastError}<span
                class="fault block text-[12px]">Cannot be judged: {alarm.lastError.message}</span
              >{/if}{#if alarm.dark.length > 0}<span class="fault block text-[12px]"
                >No data from {alarm.dark.join(', ')}</span
              >{/if}{#if !notifies && enabled}<span class="fault block text-[12px]">Notifies nobody</span>{/if}</td
          >
          <td class="align-top whitespace-nowrap"
            >{#if !enabled}switched off{:else if raised > 0}<b class="num">{raised}</b> raised{:else if clear > 0}clear{:else if indeterminate > 0}indeterminate{:else}not
              judged yet{/if}{#if enabled && indeterminate > 0 && (raised > 0 || clear > 0)}<span
                class="text-quiet block text-[12px]">{indeterminate} indeterminate</span
              >{/if}{#if since !== null && enabled}<span class="text-quiet block text-[12px]"
                >{raised > 0
                  ? `for ${peopleDuration(duration(Math.max(0, now - since)))}`
                  : `since ${peopleDuration(duration(Math.max(0, now - since)))}`}</span
              >{/if}</td
          >
          <td class="align-top"
            ><RaisedStrip
              strip={alarm.noise.strip}
              from={span.from}
              to={span.to}
              label="When it was raised in 30 days"
            /></td
          >
          <td class="right num align-top" title={noiseText(alarm)}
            >{alarm.noise.count}{#if alarm.noise.flapping > 0}<span class="text-quiet block text-[12px]"
                >{alarm.noise.flapping} flaps</span
              >{/if}</td
          >
          <td class="align-top">{alarm.owner}</td>
          <td class="text-quiet align-top text-[12px] whitespace-nowrap"
            ><Moment at={alarm.changedAt} {now} /><span class="block">by {alarm.changedBy}</span></td
          >
        </tr>
      {/each}
    </tbody>
  </table>
</section>
