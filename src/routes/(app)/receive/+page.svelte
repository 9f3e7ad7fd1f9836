<script lang="ts">
  import { enhance } from '$app/forms';
  import ConfirmedAction from '$lib/ui/forms/ConfirmedAction.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import { isInRightOfMaker, scopesFor, scopeWords, sendingScopes } from '$lib/core/people/key-scopes';
  import type { PageProps } from './$types';

  let { data, form }: PageProps = $props();
  const live = useLive();
  const { mayEdit, mayAdminister, personId } = useReader();
  useRefresh(live, ['account'], 'bussola:accounts');
  const ways = $derived([
    ['OTLP metrics, JSON or protobuf', `${data.origin}/otlp/v1/metrics`],
    ['OpenMetrics text', `${data.origin}/api/v1/receive/openmetrics`],
    ['CSV: metric, at, value, resource, unit, kind, label.…', `${data.origin}/api/v1/receive/csv`],
    ['JSON lines: metric, at, value, resource, unit, kind, labels', `${data.origin}/api/v1/receive/ndjson`]
  ]);
  const state = (key: (typeof data.keys)[number]) =>
    key.revokedAt !== null ? 'revoked' : key.expiresAt !== null && key.expiresAt <= live.now ? 'expired' : 'valid';
</script>

<svelte:head><title>Keys · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-baseline gap-3">
    <h1>Keys for other programs</h1>
    <span class="text-quiet"
      >{data.keys.filter((key) => state(key) === 'valid').length} valid of {data.keys.length}</span
    >
  </div>
  <div class="grid grid-cols-5 items-start gap-2.5 max-lg:grid-cols-1">
    <section class="panel col-span-3 max-lg:col-span-1" aria-label="Keys">
      {#if form && 'made' in form && form.made}
        <div class="bg-shallow mb-2 p-2.5 text-[13px]" role="status">
          <p>
            <b>{form.name}</b> has been made. This is its key. It is shown only once, since only its hash is stored:
          </p>
          <p class="num mt-1 break-all select-all" data-testid="made-key">{form.made}</p>
        </div>
      {/if}
      {#if form && 'done' in form && form.done}<p class="text-ok mb-1 text-[13px]" role="status">{form.done}</p>{/if}
      <table class="rows">
        <thead
          ><tr
            ><th>Name</th><th>May</th><th>Made</th><th>Expires</th><th>Last used</th><th class="right">Series</th><th
              class="right">Today</th
            ><th></th></tr
          ></thead
        >
        <tbody>
          {#each data.keys as key (key.id)}
            <tr data-key={key.name} class={[state(key) !== 'valid' && 'text-quiet']}>
              <td
                ><a class="link" href={withRange(`/accounts/${key.accountId}`)}>{key.name}</a>
                <span class="num text-quiet block text-[12px]">{key.hint}…</span></td
              >
              <td>{key.scopes.map((scope) => scopeWords[scope]).join(', ')}</td>
              <td><Moment at={key.createdAt} now={live.now} /> <span class="text-quiet">by {key.createdBy}</span></td>
              <td
                >{#if key.revokedAt}revoked <Moment at={key.revokedAt} now={live.now} />{:else if key.expiresAt}<Moment
                    at={key.expiresAt}
                    now={live.now}
                  />{:else}never{/if}</td
              >
              <td
                >{#if key.lastUsedAt}<Moment at={key.lastUsedAt} now={live.now} />{:else}never{/if}</td
              >
              <td class="num right">{key.series} of {key.mostSeries}</td>
              <td class="num right">{(key.bytesToday / 1e6).toFixed(1)} of {key.mostBytesADay / 1e6} MB</td>
              <td class="right">
                {#if state(key) === 'valid' && (mayAdminister || (mayEdit && key.ownerId === personId))}
                  <ConfirmedAction
                    action="?/revoke"
                    id={key.id}
                    label="Revoke"
                    question="Revoke {key.name} for good?"
                  />
                {/if}
              </td>
            </tr>
          {:else}
            <tr
              ><td colspan="8" class="text-quiet"
                >No key yet. Make one so that a program can send metrics or read through the API.</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
    </section>
    <div class="col-span-2 flex flex-col gap-2.5 max-lg:col-span-1">
      {#if mayEdit}
        <section class="panel" aria-label="Make a key">
          <header><h2>Make a key</h2></header>
          <form method="post" action="?/make" class="flex flex-col gap-2 text-[13px]" use:enhance>
            <label
              >Name of the key and its account <input
                class="field"
                name="name"
                placeholder="gate-sensors"
                autocomplete="off"
                required
              /></label
            >
            <div class="flex gap-2">
              <label
                >Valid for days <input
                  class="field num"
                  name="days"
                  type="number"
                  min="0"
                  max="3650"
                  value="365"
                /></label
              >
              <label
                >Most series <input
                  class="field num"
                  name="mostSeries"
                  type="number"
                  min="1"
                  max="100000"
                  value="1000"
                /></label
              >
              <label
                >Most MB a day <input
                  class="field num"
                  name="mostMegabytes"
                  type="number"
                  min="1"
                  max="100000"
                  value="100"
                /></label
              >
            </div>
            <fieldset class="flex flex-wrap gap-x-3">
              <legend>What it may do</legend>
              {#each scopesFor(mayAdminister ? 'administrator' : 'editor') as scope (scope)}
                <label class="flex items-center gap-1"
                  ><input
                    type="checkbox"
                    name="scopes"
                    value={scope}
                    checked={sendingScopes.includes(scope)}
                  />{scopeWords[scope]}{#if isInRightOfMaker(scope)}, in your right{/if}</label
                >
              {/each}
            </fieldset>
            {#if form && 'problem' in form && form.problem}<p class="fault" role="alert">{form.problem}</p>{/if}
            <button class="btn btn-main self-start">Make key</button>
          </form>
        </section>
      {/if}
      <section class="panel" aria-label="Where to send">
        <header>
          <h2>Where to send</h2>
          <small>with the header <span class="num">Authorization: Bearer KEY</span></small>
        </header>
        {#each ways as [what, where] (where)}
          <p class="border-line border-b py-1 text-[13px] last:border-0">
            {what}<span class="num block text-[12px] break-all select-all">{where}</span>
          </p>
        {/each}
      </section>
    </div>
  </div>
</main>
