<script lang="ts">
  import { DateTime } from 'luxon';
  import { severities, type Severity } from '$lib/core/alarm';
  import type { RoutingChoices } from '$lib/core/notify/route';
  import { peopleDuration, peopleMoment, textFromInstant, type Duration, type Instant } from '$lib/core/time';
  import { untrack } from 'svelte';
  import { callApi, wordsOf } from '../api';
  import { useReader } from '../time/reader';

  interface Props {
    choices: RoutingChoices;
    resources: readonly { readonly name: string; readonly account: string }[];
    incidents: readonly { readonly id: number; readonly severity: Severity; readonly subject: string }[];
    now: Instant;
    /** Changes with the routes, which are tried again then. */
    version: unknown;
  }
  interface Tried {
    readonly route: { readonly id: number; readonly name: string; readonly isNamed: boolean } | null;
    readonly lacked: readonly { readonly id: number; readonly name: string; readonly parts: readonly string[] }[];
    readonly notified: readonly {
      readonly at: Instant;
      readonly why: 'news' | 'step' | 'repeat' | 'digest';
      readonly who: string;
      readonly kind: 'rota' | 'person' | 'channel';
      readonly person: string | null;
      readonly isReached: boolean;
      readonly quietUntil: Instant | null;
    }[];
  }
  let { choices, resources, incidents, now, version }: Props = $props();
  const { zone, dates } = useReader();
  let severity = $state<Severity>('critical');
  let resource = $state('');
  let service = $state('');
  let incidentId = $state(0);
  let at = $state(untrack(() => DateTime.fromMillis(now, { zone }).plus({ days: 1 }).toFormat("yyyy-MM-dd'T'03:10")));
  let tried = $state.raw<Tried | null>(null);
  let problem = $state('');

  /** Each name once: several accounts may have it. */
  const named = $derived([...new Map(resources.map((one) => [one.name, one])).values()]);
  const asked = $derived(
    incidentId > 0 ? { incidentId } : { imagined: { severity, service, resource: resource.trim() } }
  );
  const moment = $derived(DateTime.fromISO(at, { zone }));
  $effect(() => {
    void version;
    if (!moment.isValid) return;
    const asking = new AbortController();
    const body = { ...asked, at: textFromInstant(moment.toMillis() as Instant) };
    void callApi<Tried>('POST', '/routes/try', { body, signal: asking.signal }).then((reply) => {
      if (reply.kind === 'cancelled') return;
      problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
      tried = reply.kind === 'answered' ? reply.answer : null;
    });
    return () => asking.abort();
  });
  const whyText = { news: '', step: 'next step', repeat: 'again', digest: 'digest' } as const;
  const lackedText = (parts: readonly string[]) =>
    parts
      .map((part) => ({ time: 'the hour', label: 'the label', group: 'the group' })[part] ?? `the ${part}`)
      .join(', ');
  const afterText = (when: Instant) =>
    when <= moment.toMillis() ? 'at once' : `+${peopleDuration((when - moment.toMillis()) as Duration)}`;
  const shown = $derived(tried?.notified.slice(0, 12) ?? []);
</script>

<section class="panel" aria-label="Who would be notified">
  <header>
    <h2>Who would be notified?</h2>
    <small>any incident at any time, if nobody acknowledged it</small>
  </header>
  <p class="sentence text-[14px]!">
    <select class="part" aria-label="Incident" bind:value={incidentId}>
      <option value={0}>An imagined incident</option>
      {#each incidents as { id, severity: how, subject } (id)}<option value={id}>{subject} ({how})</option>{/each}
    </select>
    {#if incidentId === 0}:
      <select class="part" aria-label="Severity tried" bind:value={severity}>
        {#each severities.toReversed() as name (name)}<option>{name}</option>{/each}
      </select>
      on
      <input
        class="part"
        list="tried-resources"
        aria-label="Resource tried"
        placeholder="a resource"
        bind:value={resource}
      />
      <datalist id="tried-resources">
        {#each named as { name, account } (name)}<option value={name}>{account}</option>{/each}
      </datalist>
      {#if resource.trim() === ''}of
        <select class="part" aria-label="Service tried" bind:value={service}>
          <option value="">no service</option>
          {#each choices.services as { key, title } (key)}<option value={key}>{title}</option>{/each}
        </select>{/if}
    {/if}
    at <input class="part" type="datetime-local" aria-label="Time tried" bind:value={at} />
  </p>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
  {#if tried}
    <div role="status" aria-live="polite" data-testid="tried">
      {#if tried.route}
        <p class="my-1 text-[13px]">
          <b>{tried.route.name}</b>
          {tried.route.isNamed ? 'takes it, since its alarm names that route.' : 'takes it.'}
          {#if tried.lacked.length > 0}<span class="text-quiet"
              >It lacked {tried.lacked.map(({ name, parts }) => `${lackedText(parts)} for ${name}`).join('; ')}.</span
            >{/if}
        </p>
        <table class="rows">
          <tbody>
            {#each shown as { at: when, why, who, kind, person, isReached, quietUntil }, index (index)}
              <tr>
                <td class="num whitespace-nowrap">{afterText(when)}</td>
                <td
                  >{#if person}<b>{person}</b>{`, ${who}`}{:else}{who}{/if}{#if quietUntil !== null}<span
                      class="text-quiet">, not disturbed until {peopleMoment(quietUntil, now, dates)}</span
                    >{:else if !isReached}<span class="fault"
                      >&#32;{kind === 'channel'
                        ? 'is not confirmed'
                        : person === null
                          ? 'nobody is on call'
                          : 'nothing confirmed'}</span
                    >{/if}</td
                >
                <td class="right text-quiet">{whyText[why]}</td>
              </tr>
            {/each}
          </tbody>
        </table>
        {#if tried.notified.length > shown.length}<p class="text-quiet text-[12px]">and so on</p>{/if}
      {:else}<p class="fault my-1 text-[13px]">No route takes it: nobody would be notified.</p>{/if}
    </div>
  {/if}
</section>
