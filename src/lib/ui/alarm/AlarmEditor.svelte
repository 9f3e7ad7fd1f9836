<script lang="ts">
  import { untrack, type Snippet } from 'svelte';
  import type { SuperValidated } from 'sveltekit-superforms';
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import ChangedElsewhere from '../forms/ChangedElsewhere.svelte';
  import { Elsewhere } from '../forms/elsewhere.svelte';
  import { steadyForm } from '../forms/steady-form';
  import {
    alarmSchema,
    gravestLevel,
    preflight,
    serviceOfAlarm,
    watchedTitle,
    watchedUnit,
    worstRehearsed,
    type AlarmDefinition,
    type Fix
  } from '$lib/core/alarm';
  import { reachOf, type RoutingChoices } from '$lib/core/notify/route';
  import { subjectOf, type Signal } from '$lib/core/signal';
  import type { Duration } from '$lib/core/time';
  import { provideHover } from '../chart/hover.svelte';
  import { useLive } from '../live/live.svelte';
  import { useReader } from '../time/reader';
  import { withRange } from '../time/shown';
  import { exampleMessage } from './example-message';
  import { AlarmHistory } from './alarm-history.svelte';
  import AlarmDetails from './AlarmDetails.svelte';
  import AlarmSentenceForm from './AlarmSentenceForm.svelte';
  import CombinedParts from './CombinedParts.svelte';
  import RouteChoice from './RouteChoice.svelte';
  import { PartHistory } from './part-history.svelte';
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
        service: string;
        samplingMs: Duration;
        delayMs: Duration;
        everyMs: Duration;
      }[];
      accounts: string[];
      resources: { id: number; name: string; account: string; type: string }[];
      routing: RoutingChoices;
      alarms: { id: number; definition: AlarmDefinition }[];
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
    /** The series that are raised now. */
    raised?: readonly { readonly key: string; readonly subject: string }[];
  }
  let { form: initial, choices, save, note, extra, alarmId = null, stored = null, raised = [] }: Props = $props();
  const live = useLive();
  const { mayEdit, zone } = useReader();
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
  const history = new AlarmHistory(() => $form);
  const signalText = $derived($form.signal && JSON.stringify($form.signal));
  $effect(() => {
    if (signalText === undefined) return;
    history.read(
      JSON.parse(signalText) as Signal,
      untrack(() => live.now)
    );
  });
  /** What decides what it would have done. */
  const judgedBy = $derived(JSON.stringify([$form.signal, $form.combines, $form.rule, history.days]));
  $effect(() => {
    void judgedBy;
    history.rehearse(
      untrack(() => $state.snapshot($form)),
      alarmId,
      zone
    );
  });
  $effect(() => history.readBands());
  const parts = new PartHistory();
  const partsBy = $derived(JSON.stringify([$form.combines, $form.rule.zone, history.days]));
  $effect(() => {
    void partsBy;
    untrack(() => parts.read($state.snapshot($form), choices.alarms, history.days));
  });
  $effect(() => () => {
    history.stop();
    parts.stop();
  });

  const unit = $derived(history.answer?.rows[0]?.unit ?? watchedUnit($form.signal, metricOf));
  const reach = (alarm: AlarmDefinition) =>
    reachOf(
      { ...alarm, severity: gravestLevel(alarm.rule).severity, service: serviceOfAlarm(alarm, choices.metrics) },
      choices.routing
    );
  const checks = $derived(
    preflight($form, {
      metrics: choices.metrics,
      reachOf: reach,
      alarms: choices.alarms,
      id: alarmId,
      rehearsal: history.rehearsal,
      now: live.now
    })
  );
  /** The alarm before the last fix, and after it: what was changed since is not taken back. */
  let fixed = $state.raw<{ readonly before: AlarmDefinition; readonly after: string } | null>(null);
  const mayUndo = $derived(fixed !== null && fixed.after === JSON.stringify($form));
  function fix(alarm: AlarmDefinition): void {
    const before = $state.snapshot($form);
    $form = alarm;
    fixed = { before, after: JSON.stringify($form) };
  }
  const addressOf = (open: Extract<Fix, { open: unknown }>['open']): string =>
    open.page === 'bench' ? composing : withRange(open.page === 'alarm' ? `/alarms/${open.id}` : `/${open.page}`);
  const worst = $derived(history.rehearsal ? worstRehearsed(history.rehearsal) : undefined);
  const worstSeries = $derived(worst && history.rehearsal?.series[worst.series]);
  const example = $derived(
    exampleMessage($form, {
      subject: subjectOf((worstSeries ?? history.answer?.series[0])?.labels ?? {}, $form.name),
      what: watchedTitle($form, metricOf),
      unit,
      worst,
      now: live.now
    })
  );

  /** What saving would do to what is raised now, or would be: told while what is judged differs from what is saved. */
  const consequence = $derived.by(() => {
    const judged = ({ signal, combines, rule, enabled }: AlarmDefinition) =>
      JSON.stringify([signal, combines, rule, enabled]);
    const { rehearsal } = history;
    if (!stored || judged(stored.definition) === judged($form)) return '';
    if (!$form.enabled) return raised.length > 0 ? `Saving ends what is raised: ${named(raised)}.` : '';
    if (rehearsal === null || history.isStale) return '';
    const then = rehearsal.periods
      .filter(({ to }) => to === null)
      .flatMap(({ series }) => rehearsal.series[series] ?? [])
      .map(({ key, labels }) => ({ key, subject: subjectOf(labels, $form.name) }));
    const cleared = raised.filter(({ key }) => then.every((one) => one.key !== key));
    const more = then.filter(({ key }) => raised.every((one) => one.key !== key));
    return [
      cleared.length > 0 ? `Saving clears ${named(cleared)}.` : '',
      more.length > 0 ? `Saving raises ${named(more)}.` : '',
      cleared.length + more.length === 0 && raised.length > 0 ? 'What is raised stays so.' : ''
    ].join(' ');
  });
  const mostNamed = 4;
  const named = (all: readonly { readonly subject: string }[]): string =>
    all.length > mostNamed
      ? `${all
          .slice(0, mostNamed)
          .map(({ subject }) => subject)
          .join(', ')} and ${all.length - mostNamed} more`
      : all.map(({ subject }) => subject).join(', ');
  /** Whether a new alarm is judged over the history that it is replayed on. */
  let judgesHistory = $state(false);

  const composing = $derived(
    withRange(`/bench?signal=${encodeURIComponent(signalText ?? '')}${alarmId === null ? '' : `&alarm=${alarmId}`}`)
  );
</script>

<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <form method="post" action={judgesHistory ? `?/save&history=${history.days}` : '?/save'} use:enhance>
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
        <span class="ml-auto flex items-center gap-2"
          >{#if alarmId === null}<label
              class="text-[13px]"
              title="What it would have raised becomes incidents that nobody is notified of"
              ><input type="checkbox" bind:checked={judgesHistory} /> Judge {history.days === 1
                ? 'the last day'
                : `the last ${history.days} days`} as well</label
            >{/if}<a class="btn" href="/alarms">Cancel</a><button class="btn btn-main" disabled={$submitting}
            >{save}</button
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
    {#if consequence.trim() !== '' && mayEdit}<p class="mb-2 text-[13.5px]" role="status" data-testid="consequence">
        {consequence}
      </p>{/if}
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
          {#if $form.combines}<CombinedParts
              bind:combines={$form.combines}
              alarms={choices.alarms}
              id={alarmId}
              metrics={choices.metrics}
              accounts={choices.accounts}
              resources={choices.resources}
              disabled={!mayEdit}
            />{/if}
          {#if $form.signal}<a class="link mt-1 inline-block text-[13px]" href={composing}
              >Compose what it watches on the bench</a
            >{/if}
        </section>
        <RehearsalPanel bind:alarm={$form} {history} lanes={parts.lanes} now={live.now} disabled={!mayEdit} />
        {@render extra?.()}
      </div>
      <div class="flex flex-col gap-2.5">
        <PreflightList
          {checks}
          {addressOf}
          onFix={mayEdit ? fix : undefined}
          onUndo={mayUndo
            ? () => {
                if (fixed) $form = fixed.before;
                fixed = null;
              }
            : undefined}
        />
        <RouteChoice
          routes={choices.routing.routes}
          bind:chosen={$form.route}
          reach={reach($form)}
          disabled={!mayEdit}
        />
        <AlarmDetails bind:alarm={$form} disabled={!mayEdit} />
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
