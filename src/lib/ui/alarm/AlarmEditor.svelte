<script lang="ts">
  import { untrack, type Snippet } from 'svelte';
  import type { SuperValidated } from 'sveltekit-superforms';
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import ChangedElsewhere from '../forms/ChangedElsewhere.svelte';
  import { Elsewhere } from '../forms/elsewhere.svelte';
  import { steadyForm } from '../forms/steady-form';
  import {
    alarmSchema,
    preflight,
    watchedTitle,
    watchedUnit,
    worstPeriod,
    type AlarmDefinition
  } from '$lib/core/alarm';
  import { asksFor, picksOf, subjectOf } from '$lib/core/signal';
  import { duration, type Duration } from '$lib/core/time';
  import { provideHover } from '../chart/hover.svelte';
  import { useLive } from '../live/live.svelte';
  import { useReader } from '../time/reader';
  import { withRange } from '../time/shown';
  import { exampleMessage } from './example-message';
  import { LastDay } from './last-day.svelte';
  import AlarmSentenceForm from './AlarmSentenceForm.svelte';
  import ChannelChoice from './ChannelChoice.svelte';
  import PreflightList from './PreflightList.svelte';
  import RehearsalPanel from './RehearsalPanel.svelte';

  interface Props {
    form: SuperValidated<AlarmDefinition>;
    choices: {
      metrics: {
        name: string;
        title: string;
        unit: string;
        shape: string;
        kind: string;
        resourceType: string;
        samplingMs: Duration;
        delayMs: Duration;
        everyMs: Duration;
      }[];
      accounts: string[];
      resources: { id: number; name: string; account: string; type: string }[];
      channels: { id: number; name: string; address: string; confirmed: boolean }[];
    };
    /** What the button that saves says. */
    save: string;
    /** Beside the heading. */
    note: string;
    extra?: Snippet;
    /** The id of the alarm, once it is saved: the bench leads back to it. */
    alarmId?: number | null;
    /** The alarm as it is stored, which somebody else may change meanwhile; none before it is. */
    stored?: { readonly definition: AlarmDefinition; readonly by: string } | null;
  }
  let { form: initial, choices, save, note, extra, alarmId = null, stored = null }: Props = $props();
  const live = useLive();
  const { mayEdit } = useReader();
  provideHover();
  const { form, errors, allErrors, enhance, submitting, message } = steadyForm(
    untrack(() => initial),
    { validators: zod4Client(alarmSchema), dataType: 'json', resetForm: false }
  );
  const elsewhere = new Elsewhere({
    stored: () => stored?.definition ?? null,
    mine: () => (stored === null ? null : $form),
    take: (definition) => {
      if (definition) $form = definition;
    }
  });
  const metricOf = (name: string) => choices.metrics.find((metric) => metric.name === name);
  /** The metrics that the signal picks. */
  const picked = $derived(
    choices.metrics.filter(({ name }) => picksOf($form.signal).some(({ metric }) => asksFor(metric, name)))
  );
  const slowest = (of: 'samplingMs' | 'delayMs' | 'everyMs') =>
    picked.reduce((most, metric) => duration(Math.max(most, metric[of])), duration(0));
  const lastDay = new LastDay(() => $form);
  const signalText = $derived(JSON.stringify($form.signal));
  $effect(() =>
    lastDay.read(
      JSON.parse(signalText) as AlarmDefinition['signal'],
      untrack(() => live.now)
    )
  );
  $effect(() => () => lastDay.stop());

  const unit = $derived(lastDay.answer?.rows[0]?.unit ?? watchedUnit($form.signal, metricOf));
  const checks = $derived(
    preflight($form, {
      watched: {
        unit,
        samplingMs: slowest('samplingMs'),
        delayMs: slowest('delayMs'),
        everyMs: slowest('everyMs')
      },
      seen: lastDay.seen,
      series: lastDay.answer?.series.length ?? null,
      channels: choices.channels,
      rehearsal: lastDay.rehearsal
    })
  );
  const worst = $derived(lastDay.rehearsal ? worstPeriod(lastDay.rehearsal, $form.rule.condition) : undefined);
  const worstSeries = $derived(lastDay.answer?.series.find(({ id }) => id === worst?.seriesId));
  const example = $derived(
    exampleMessage($form, {
      subject: subjectOf((worstSeries ?? lastDay.answer?.series[0])?.labels ?? {}, $form.name),
      what: watchedTitle($form, metricOf),
      unit,
      worst,
      now: live.now
    })
  );

  const composing = $derived(
    withRange(`/bench?signal=${encodeURIComponent(signalText)}${alarmId === null ? '' : `&alarm=${alarmId}`}`)
  );
</script>

<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <form method="post" action="?/save" use:enhance>
    <div class="mb-3 flex flex-wrap items-center gap-3">
      <input
        class="field max-w-md border-transparent! bg-transparent! px-1! text-[20px]! font-bold hover:border-[var(--edge)]!"
        aria-label="Name of the alarm"
        bind:value={$form.name}
        disabled={!mayEdit}
      />
      <span class="text-quiet">{note}</span>
      {#if $message}<span class="text-ok" role="status">{$message}</span>{/if}
      {#if mayEdit}
        <span class="ml-auto flex gap-2"
          ><a class="btn" href="/alarms">Cancel</a><button class="btn btn-main" disabled={$submitting}>{save}</button
          ></span
        >
      {/if}
    </div>
    {#if elsewhere.theirs !== null && mayEdit}<ChangedElsewhere
        what="this alarm"
        by={stored?.by ?? ''}
        onTheirs={() => elsewhere.takeTheirs()}
        onMine={() => elsewhere.keepMine()}
      />{/if}
    {#if $errors._errors}<p class="fault mb-2" role="alert">{$errors._errors[0]}</p>{/if}
    {#each $allErrors as { path, messages } (path)}<p class="fault mb-1 text-[13px]" role="alert">
        {messages[0]}
      </p>{/each}
    <div class="grid grid-cols-[1fr_300px] items-start gap-2.5 max-lg:grid-cols-1">
      <div class="flex min-w-0 flex-col gap-2.5">
        <section class="panel px-4! py-2.5!" aria-label="The alarm in one sentence">
          <AlarmSentenceForm
            bind:alarm={$form}
            {unit}
            {composing}
            metrics={choices.metrics}
            accounts={choices.accounts}
            resources={choices.resources}
            disabled={!mayEdit}
          />
          <a class="link mt-1 inline-block text-[13px]" href={composing}>Compose what it watches on the bench</a>
        </section>
        <RehearsalPanel
          alarm={$form}
          picture={lastDay.picture}
          rehearsal={lastDay.rehearsal}
          problem={lastDay.problem}
          now={live.now}
        />
        {@render extra?.()}
      </div>
      <div class="flex flex-col gap-2.5">
        <PreflightList {checks} />
        <ChannelChoice channels={choices.channels} bind:chosen={$form.channels} disabled={!mayEdit} />
        <section class="panel" aria-label="The message">
          <header>
            <h2>The message</h2>
            <small>e-mail subject</small>
          </header>
          <p class="bg-sunk num rounded-[3px] p-2 break-words">{example.subject}</p>
        </section>
      </div>
    </div>
  </form>
</main>
