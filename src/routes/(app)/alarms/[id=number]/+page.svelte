<script lang="ts">
  import ConfirmedAction from '$lib/ui/forms/ConfirmedAction.svelte';
  import { page } from '$app/state';
  import { peopleMoment } from '$lib/core/time';
  import AlarmEditor from '$lib/ui/alarm/AlarmEditor.svelte';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit, dates } = useReader();
  const order = ['raised', 'indeterminate', 'clear'];
  const states = $derived(
    [...data.states].sort(
      (a, b) => order.indexOf(a.state) - order.indexOf(b.state) || a.subject.localeCompare(b.subject)
    )
  );
</script>

<svelte:head><title>{data.form.data.name} · Bussola</title></svelte:head>
{#snippet extra()}
  {#if data.lastError}
    <p class="fault" role="alert">This alarm cannot be judged: {data.lastError.message} {data.lastError.remedy}</p>
  {/if}
  <section class="panel" aria-label="Each series now">
    <header>
      <h2>Each series now</h2>
      <small>{states.filter(({ state }) => state === 'raised').length} raised of {states.length}</small>
    </header>
    {#if states.length > 0}
      <table class="rows">
        <tbody>
          {#each states as { key, state, severity, since, subject, account, darkSince } (key)}
            <tr data-series={subject} data-state={state}>
              <td class="w-6"
                ><SeverityHoist
                  severity={state === 'raised' ? severity : null}
                  indeterminate={state === 'indeterminate'}
                /></td
              >
              <td class="font-semibold">{subject}</td>
              <td class="text-quiet">{account}</td>
              <td
                >{state}{#if darkSince !== null}<span class="fault block text-[12px]"
                    >no data from {account} since <Moment at={darkSince} now={live.now} /></span
                  >{/if}</td
              >
              <td class="right text-quiet">since <Moment at={since} now={live.now} /></td>
              <td class="right"
                ><a
                  class="link"
                  href={withRange(`/alarms/${page.params.id}/why?series=${encodeURIComponent(key)}`)}
                  aria-label="Why {subject} is {state}">Why?</a
                ></td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    {:else}<p class="text-quiet text-[13px]">Not judged yet: the first cells are still filling.</p>{/if}
    <p class="mt-2 flex flex-wrap gap-2">
      <a class="btn" href={withRange(`/alarms/${page.params.id}/versions`)}>Versions</a>
      <a class="btn" href="/api/v1/alarms/file?ids={page.params.id}" download>Export</a>
      {#if mayEdit}
        <a class="btn" href={withRange(`/alarms/new?copy=${page.params.id}`)}>Make a copy</a>
        <ConfirmedAction
          action="?/remove"
          label="Remove"
          question="Its open incidents are closed; its incidents stay in the history. It can be restored for 30 days. Remove it?"
          things={[{ kind: 'alarm', id: Number(page.params.id) }]}
        />
      {/if}
    </p>
  </section>
{/snippet}
{#key `${page.params.id}${page.url.searchParams.get('signal') ?? ''}`}
  <AlarmEditor
    alarmId={Number(page.params.id)}
    form={data.form}
    stored={{ definition: data.definition, by: data.changedBy }}
    raised={data.states.filter(({ state }) => state === 'raised')}
    choices={data.choices}
    save="Save"
    note={data.isOther
      ? 'with the signal from the bench, not saved yet'
      : `changed ${peopleMoment(data.changedAt, live.now, dates)} by ${data.changedBy}`}
    {extra}
  />
{/key}
