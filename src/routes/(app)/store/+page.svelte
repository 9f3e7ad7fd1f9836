<script lang="ts">
  import { countOf } from '$lib/core/words/count';
  import ConnectOffer from '$lib/ui/account/ConnectOffer.svelte';
  import { serviceByKey } from '$lib/core/services';
  import { quantityText } from '$lib/core/units';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  useRefresh(live, ['account'], 'bussola:accounts');
  const bytes = $derived(data.kept.reduce((sum, one) => sum + one.bytes, 0));
  const points = $derived(data.kept.reduce((sum, one) => sum + one.points, 0));
  const lines = $derived({
    sealed: data.lines.reduce((sum, one) => sum + one.lines, 0),
    bytes: data.lines.reduce((sum, one) => sum + one.bytes, 0),
    raw: data.lines.reduce((sum, one) => sum + one.raw, 0),
    waiting: data.lines.reduce((sum, one) => sum + one.waiting, 0)
  });
  const count = (value: number) => value.toLocaleString('en');
  const names = new Map([
    [0, 'samples as they came'],
    [300_000, '5-minute summaries'],
    [3_600_000, 'summaries of an hour']
  ]);
  const when = (days: number) => (days === 1 ? 'within a day' : `within ${days} days`);
  const title = $derived(
    points === 0
      ? 'Nothing is sealed in the store yet.'
      : (data.going[1] ?? 0) === 0
        ? `${quantityText(bytes, 'By')} are stored. Nothing will be removed within a week.`
        : `${quantityText(bytes, 'By')} are stored. ${quantityText(data.going[1] ?? 0, 'By')} of it will be removed within a week.`
  );
</script>

<svelte:head><title>Store · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-3">
    <h1>{title}</h1>
    {#if data.oldest !== null}<span class="text-quiet"
        >{count(points)} points, the oldest from <Moment at={data.oldest} now={live.now} /></span
      >{/if}
  </div>
  <div class="flex flex-col gap-2.5">
    {#if data.unreadable.length > 0}
      <section class="panel" aria-label="Cannot be read">
        <header>
          <h2>{countOf(data.unreadable.length, 'stored definition')} cannot be read</h2>
          <small>left out of every list; the rest works on</small>
        </header>
        {#each data.unreadable as { message, remedy } (message)}<p class="py-1 text-[13px]">
            <b class="fault">! {message}</b>
            {remedy}
          </p>{/each}
      </section>
    {/if}
    <section class="panel" aria-label="Retention">
      <header>
        <h2>Retention</h2>
        <small>beside {count(data.journal.points)} points in the journal that are not sealed yet</small>
      </header>
      {#if data.disk}
        <p class="text-quiet mb-1.5 text-[13px]">
          What is acknowledged is synced to the disk first, and survives a loss of power. {quantityText(
            data.disk.free,
            'By'
          )} free on the disk; below {quantityText(data.disk.least, 'By')} no samples are taken.
        </p>
      {/if}
      <div class="overflow-x-auto">
        <table class="rows">
          <thead
            ><tr
              ><th>Stored as</th><th class="right">Points</th><th class="right">Size</th><th class="right"
                >Bytes a point</th
              ><th class="right">Chunks</th><th>Oldest</th></tr
            ></thead
          >
          <tbody>
            {#each data.kept as one (one.resolution)}
              <tr>
                <td>{names.get(one.resolution)}</td>
                <td class="num right">{count(one.points)}</td>
                <td class="num right">{quantityText(one.bytes, 'By')}</td>
                <td class="num right">{(one.bytes / one.points).toFixed(2)}</td>
                <td class="num right">{count(one.chunks)}</td>
                <td><Moment at={one.oldest} now={live.now} /></td>
              </tr>
            {:else}
              <tr
                ><td colspan="6" class="text-quiet"
                  >Samples are sealed half an hour after they came, or sooner when many come at once.</td
                ></tr
              >
            {/each}
          </tbody>
        </table>
      </div>
    </section>
    <section class="panel" aria-label="Lines">
      <header>
        <h2>Lines</h2>
        <small
          >{count(lines.sealed)} sealed, {quantityText(lines.bytes, 'By')}{lines.raw > 0
            ? `, ${((100 * lines.bytes) / lines.raw).toFixed(0)} % of their text`
            : ''}; {count(lines.waiting)} in the journal</small
        >
      </header>
      {#if data.damagedLines > 0}
        <p class="mb-1.5 text-[13px]" role="alert">
          <b class="fault">! {countOf(data.damagedLines, 'segment')} of lines cannot be read.</b> What they hold is not found;
          all else is. Run the doctor, which names them, and restore them from a backup.
        </p>
      {/if}
      <div class="overflow-x-auto">
        <table class="rows">
          <thead
            ><tr
              ><th>Account</th><th>Service</th><th class="right">Lines</th><th class="right">Size</th><th class="right"
                >In the journal</th
              ><th>Oldest</th><th class="right">Stored</th>{#each data.ahead as days (days)}<th class="right"
                  >Removed {when(days)}</th
                >{/each}</tr
            ></thead
          >
          <tbody>
            {#each data.lines as row (`${row.accountId} ${row.service}`)}
              <tr>
                <td>{row.account}</td>
                <td>{serviceByKey(row.service).title}</td>
                <td class="num right">{count(row.lines)}</td>
                <td class="num right">{quantityText(row.bytes, 'By')}</td>
                <td class="num right">{count(row.waiting)}</td>
                <td
                  >{#if row.oldest !== null}<Moment at={row.oldest} now={live.now} />{/if}</td
                >
                <td class="num right">{count(row.lineDays)} d</td>
                {#each row.going as gone, index (data.ahead[index])}
                  <td class={['num right', gone === 0 && 'text-quiet']}
                    >{gone === 0 ? 'nothing' : quantityText(gone, 'By')}</td
                  >
                {/each}
              </tr>
            {:else}
              <tr
                ><td colspan="10" class="text-quiet"
                  >No line has arrived yet. <a class="link" href="/logs">How lines come</a></td
                ></tr
              >
            {/each}
          </tbody>
        </table>
      </div>
    </section>
    <section class="panel" aria-label="What will be removed">
      <header>
        <h2>What will be removed, and when</h2>
        <small>older than its retention; checked every hour, in whole days</small>
      </header>
      <div class="overflow-x-auto">
        <table class="rows">
          <thead
            ><tr
              ><th>Account</th><th>Service</th><th class="right">Samples</th><th class="right">5 minutes</th><th
                class="right">Hours</th
              ><th class="right">Events</th><th class="right">Incidents</th>{#each data.ahead as days (days)}<th
                  class="right">Removed {when(days)}</th
                >{/each}</tr
            ></thead
          >
          <tbody>
            {#each data.services as row (`${row.accountId} ${row.service}`)}
              <tr>
                <td
                  ><a class="link" href={withRange(`/accounts/${row.accountId}?service=${row.service}`)}
                    >{row.account}</a
                  ></td
                >
                <td>{serviceByKey(row.service).title}</td>
                <td class="num right">{count(row.keep.sampleDays)} d</td>
                <td class="num right">{count(row.keep.fiveMinuteDays)} d</td>
                <td class="num right">{count(row.keep.hourDays)} d</td>
                <td class="num right">{count(row.keep.eventDays)} d</td>
                <td class="num right">{count(row.keep.incidentDays)} d</td>
                {#each row.going as gone, index (data.ahead[index])}
                  <td class={['num right', gone.bytes === 0 && 'text-quiet']}
                    >{gone.bytes === 0 ? 'nothing' : quantityText(gone.bytes, 'By')}</td
                  >
                {/each}
              </tr>
            {:else}
              <tr><td colspan="10" class="text-quiet">No account brings anything yet. <ConnectOffer />.</td></tr>
            {/each}
          </tbody>
        </table>
      </div>
      <p class="text-quiet mt-1.5 text-[13px]" data-testid="history-due">
        {data.history.events + data.history.incidents + data.history.messages === 0
          ? 'No event, incident or message is old enough to be removed within 30 days.'
          : `Within 30 days ${countOf(data.history.events, 'event')}, ${countOf(data.history.incidents, 'incident')} with ${data.history.incidents === 1 ? 'its' : 'their'} messages and ${countOf(data.history.messages, 'other message')} are removed as well.`}
      </p>
    </section>
  </div>
</main>
