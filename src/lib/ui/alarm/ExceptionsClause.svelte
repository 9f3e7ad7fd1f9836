<script lang="ts">
  import type { Threshold, ThresholdException, Times } from '$lib/core/alarm';
  import { DateTime } from 'luxon';
  import { useLive } from '../live/live.svelte';
  import { useReader } from '../time/reader';
  import NumberPart from './NumberPart.svelte';

  type OneSided = Extract<Threshold, { limit: number }>;
  type Exception = Extract<ThresholdException, { limit: number } | { off: true }>;
  interface Props {
    condition: OneSided;
    /** The unit of its numbers, as people write it. */
    unit: string;
    /** Before the names of its parts. */
    named: (name: string) => string;
    onChange: (condition: OneSided) => void;
  }
  let { condition, unit, named, onChange }: Props = $props();
  const live = useLive();
  const { zone } = useReader();
  const today = () => DateTime.fromMillis(live.now, { zone }).toISODate() ?? '';
  const exceptions = $derived<readonly Exception[]>(condition.exceptions ?? []);
  const dayNames = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
  const daysOffered: readonly (readonly [key: string, says: string])[] = [
    ['', 'every day'],
    ['1,2,3,4,5', 'Monday to Friday'],
    ['6,7', 'Saturday and Sunday'],
    ...dayNames.map((name, i) => [String(i + 1), name] as const)
  ];
  const keyOf = ({ weekdays }: Times) => (weekdays ?? []).join(',');
  const withOwn = (times: Times) =>
    daysOffered.some(([key]) => key === keyOf(times))
      ? daysOffered
      : [...daysOffered, [keyOf(times), (times.weekdays ?? []).map((day) => dayNames[day - 1]).join(', ')] as const];

  function put(position: number, exception: Exception | null): void {
    const next = exceptions.flatMap((one, index) => (index === position ? (exception ?? []) : one));
    const { exceptions: _, ...plain } = condition;
    onChange(next.length === 0 ? plain : { ...plain, exceptions: next });
  }
  const putTimes = (position: number, exception: Exception, times: Times) => put(position, { ...exception, times });

  function chooseDays(position: number, exception: Exception, key: string): void {
    const { weekdays: _, ...times } = exception.times;
    const weekdays = key === '' ? undefined : key.split(',').map(Number);
    // Without hours and dates, the days themselves are what is chosen.
    const rest = weekdays || times.hours || times.dates ? times : { ...times, hours: { from: '00:00', to: '24:00' } };
    putTimes(position, exception, weekdays ? { ...rest, weekdays } : rest);
  }
  function chooseHours(position: number, exception: Exception, change: { from?: string; to?: string }): void {
    const { from = '00:00', to = '24:00' } = { ...exception.times.hours, ...change };
    if (from === '' || to === '') return;
    putTimes(position, exception, { ...exception.times, hours: { from, to } });
  }
  function chooseDates(position: number, exception: Exception, change: { from?: string; to?: string }): void {
    const [span] = exception.times.dates ?? [];
    const from = change.from ?? span?.from ?? '';
    const to = change.to ?? span?.to ?? from;
    const { dates: _, ...times } = exception.times;
    const dates = from === '' ? undefined : [{ from, to: to < from ? from : to }];
    if (dates) putTimes(position, exception, { ...times, dates });
    else if (times.weekdays || times.hours) putTimes(position, exception, times);
  }
  /** A date field shows what there is; the clock's end of the day is its beginning there. */
  const clock = (text: string | undefined, usual: string) =>
    text === undefined ? usual : text === '24:00' ? '00:00' : text;
</script>

{#each exceptions as exception, position (position)}
  , but
  <select
    class="part"
    aria-label={named(`Exception ${position + 1}`)}
    value={'off' in exception ? 'off' : 'limit'}
    onchange={(event) =>
      put(
        position,
        event.currentTarget.value === 'off'
          ? { times: exception.times, off: true }
          : { times: exception.times, limit: condition.limit }
      )}><option value="limit">{condition.is}</option><option value="off">never</option></select
  >
  {#if 'limit' in exception}<NumberPart
      name={named(`Threshold of exception ${position + 1}`)}
      value={exception.limit}
      {unit}
      onChange={(limit: number) => put(position, { ...exception, limit })}
    />{/if}
  <span class="whitespace-nowrap"
    >from
    <input
      class="part num"
      type="time"
      aria-label={named(`Exception ${position + 1} from`)}
      value={clock(exception.times.hours?.from, '00:00')}
      onchange={(event) => chooseHours(position, exception, { from: event.currentTarget.value })}
    />
    to
    <input
      class="part num"
      type="time"
      aria-label={named(`Exception ${position + 1} to`)}
      value={clock(exception.times.hours?.to, '00:00')}
      onchange={(event) => chooseHours(position, exception, { to: event.currentTarget.value })}
    /></span
  >
  on
  <select
    class="part"
    aria-label={named(`Days of exception ${position + 1}`)}
    value={keyOf(exception.times)}
    onchange={(event) => chooseDays(position, exception, event.currentTarget.value)}
    >{#each withOwn(exception.times) as [key, says] (key)}<option value={key}>{says}</option>{/each}</select
  >
  {#if exception.times.dates}
    {@const [span] = exception.times.dates}
    <span class="whitespace-nowrap"
      >between <input
        class="part num"
        type="date"
        aria-label={named(`First date of exception ${position + 1}`)}
        value={span?.from ?? ''}
        onchange={(event) => chooseDates(position, exception, { from: event.currentTarget.value })}
      />
      and
      <input
        class="part num"
        type="date"
        aria-label={named(`Last date of exception ${position + 1}`)}
        value={span?.to ?? ''}
        onchange={(event) => chooseDates(position, exception, { to: event.currentTarget.value })}
      /></span
    >
  {:else}
    <button type="button" class="link text-[13px]" onclick={() => chooseDates(position, exception, { from: today() })}
      >+ dates</button
    >
  {/if}
  <button
    type="button"
    class="link text-[13px]"
    aria-label={named(`Remove exception ${position + 1}`)}
    onclick={() => put(position, null)}>remove</button
  >
{/each}
