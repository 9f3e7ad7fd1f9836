<script lang="ts">
  import { planWords, type Summary } from '$lib/core/summary';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import { Acting } from '$lib/ui/people/acting.svelte';
  import Outcome from '$lib/ui/people/Outcome.svelte';
  import SummaryView from '$lib/ui/summary/SummaryView.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  const acting = new Acting();
  useRefresh(live, ['summaries', 'costs'], 'bussola:summaries');
  // What was put together stays until what is put together anew is there: news must not make it flicker.
  let summary = $state.raw<Summary | null>(null);
  let failed = $state(false);
  $effect(() => {
    let isCurrent = true;
    data.summary.then(
      (found) => isCurrent && ([summary, failed] = [found, found === null]),
      () => isCurrent && (failed = true)
    );
    return () => (isCurrent = false);
  });
  const isShown = $derived(
    summary !== null && summary.kind === data.kind && data.of === summary.incidents.days[0]?.date
  );
  const href = (kind: string, of: string) => `/summary?kind=${kind}&of=${of}`;
  const asked = $derived(`kind=${data.kind}&of=${data.of}&zone=${encodeURIComponent(data.zone)}`);
  /** One that is due for so long could not be put together, ms. */
  const lateMs = 120_000;
  let link = $state('');

  async function share(): Promise<void> {
    const body = { kind: data.kind, of: data.of, zone: data.zone };
    const answered = await acting.call<{ link: string | null }>(
      'POST',
      '/summaries',
      { body },
      'A link was made. It is good for 90 days.'
    );
    link = answered?.answer.link ?? '';
  }
</script>

<svelte:head><title>Summary · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-2 flex flex-wrap items-baseline gap-2">
    <h1>{data.title}{data.isOver ? '' : ', so far'}</h1>
    <span class="flex gap-2 text-[12px]">
      {#each ['week', 'month'] as const as kind (kind)}
        <a
          class={data.kind === kind ? 'font-semibold' : 'text-quiet hover:underline'}
          aria-current={data.kind === kind ? 'true' : undefined}
          href={href(kind, data.of)}>{kind}</a
        >
      {/each}
    </span>
    <span class="ml-auto flex flex-wrap items-center gap-1 text-[13px]">
      <a class="btn" href={href(data.kind, data.earlier)} aria-label="The {data.kind} before">‹</a>
      {#if data.later !== null}<a class="btn" href={href(data.kind, data.later)} aria-label="The next {data.kind}">›</a
        >{/if}
      <a class="btn" href="/api/v1/summary?{asked}&as=pdf" download>PDF</a>
      <a class="btn" href="/api/v1/summary?{asked}&as=csv" download>Numbers as CSV</a>
      {#if mayEdit}<button class="btn" disabled={acting.busy} onclick={() => void share()}>Make a link</button>
        <a class="btn" href="/summary/plans/new?kind={data.kind}">Send it regularly</a>{/if}
    </span>
  </div>
  <Outcome {acting} />
  {#if link !== ''}
    <p class="panel mb-2.5 text-[13px]">
      Anybody who has this address reads it, without signing in:
      <a class="link break-all" href={link} data-testid="link">{link}</a>
    </p>
  {/if}
  {#if failed}
    <p class="fault">It could not be put together. Try again in a moment.</p>
  {:else if summary !== null && isShown}
    <SummaryView {summary} isInside />
  {:else}
    <p class="text-quiet" role="status">It is put together …</p>
  {/if}
  <section class="panel mt-2.5 overflow-x-auto" aria-label="Sent regularly">
    <header><h2>Sent regularly</h2></header>
    <table class="rows">
      <tbody>
        {#each data.plans as { id, plan, to, nextAt } (id)}
          <tr data-plan={plan.name}>
            <td><a class="link font-semibold" href="/summary/plans/{id}">{plan.name}</a></td>
            <td>{planWords(plan)}</td>
            <td
              >to {#each to as one, index (index)}{index > 0 ? ', ' : ''}{#if one === null}<span class="fault"
                    >a removed channel</span
                  >{:else}{one.name}{#if !one.isConfirmed}<span class="text-quiet">
                      (not confirmed)</span
                    >{/if}{/if}{/each}</td
            >
            <td class="text-quiet whitespace-nowrap"
              >{#if nextAt === null}off{:else if nextAt < live.now - lateMs}<span class="fault"
                  >late since <Moment at={nextAt} now={live.now} />: it is tried again each minute; the log says why</span
                >{:else}next <Moment at={nextAt} now={live.now} />{/if}</td
            >
          </tr>
        {:else}
          <tr
            ><td class="text-quiet"
              >{#if mayEdit}<a class="link" href="/summary/plans/new">Send one</a> each Monday or on the first of the month,
                by mail or to any other channel.{:else}An editor can have it sent each week or month.{/if}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  </section>
  <section class="panel mt-2.5 overflow-x-auto" aria-label="Sent and shared before">
    <header>
      <h2>Sent and shared before</h2>
      <small>newest first</small>
    </header>
    <table class="rows">
      <tbody>
        {#each data.sent as { id, name, title, madeAt, madeBy, linkUntil, hasLink } (id)}
          <tr data-summary={id}>
            <td><a class="link" href="/summary/{id}">{name}</a></td>
            <td>{title}</td>
            <td class="text-quiet whitespace-nowrap"><Moment at={madeAt} now={live.now} />, {madeBy}</td>
            <td class="text-quiet whitespace-nowrap"
              >{#if hasLink && linkUntil !== null}read by link until <Moment at={linkUntil} now={live.now} />{:else}no
                link{/if}</td
            >
          </tr>
        {:else}<tr><td class="text-quiet">Nothing yet.</td></tr>{/each}
      </tbody>
    </table>
  </section>
</main>
