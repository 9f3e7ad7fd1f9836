<script lang="ts">
  import { formOf } from '$lib/core/words/count';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { serviceByKey } from '$lib/core/services';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
</script>

<svelte:head><title>Alarms · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex items-center gap-3">
    <h1>
      Alarms <span class="text-quiet text-[14px] font-normal"
        >{data.service ? `of ${data.service}` : 'of every service'}</span
      >
    </h1>
    {#if mayEdit}<a class="btn btn-main ml-auto" href={withRange('/alarms/new')}>New alarm</a>{/if}
  </div>
  <section class="panel" aria-label="Alarms">
    {#if data.alarms.length > 0}
      <table class="rows">
        <thead
          ><tr
            ><th></th><th>Alarm</th><th class="right">Raised</th><th class="right">Indeterminate</th><th class="right"
              >Clear</th
            ><th>Notifies</th><th>Changed</th></tr
          ></thead
        >
        <tbody>
          {#each data.alarms as { id, name, severity, sentence, lastError, raised, indeterminate, clear, channels, changedAt, changedBy } (id)}
            <tr data-alarm={name}>
              <td class="w-6"><SeverityHoist severity={raised > 0 ? severity : null} indeterminate={clear === 0} /></td>
              <td
                ><a class="font-semibold hover:underline" href={withRange(`/alarms/${id}`)}>{name}</a><span
                  class="text-quiet block text-[12px]">{sentence}</span
                >{#if lastError}<span class="fault block text-[12px]">Cannot be judged: {lastError.message}</span
                  >{/if}</td
              >
              <td class="right num">{raised}</td>
              <td class="right num">{indeterminate}</td>
              <td class="right num">{clear}</td>
              <td
                >{#if channels === 0}<span class="fault">nobody</span>{:else}{channels}
                  {formOf(channels, 'channel')}{/if}</td
              >
              <td class="text-quiet whitespace-nowrap"><Moment at={changedAt} now={live.now} /> by {changedBy}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {:else}
      <p class="text-quiet p-4">
        No alarm{data.service ? ` on ${serviceByKey(data.service).several}` : ''} yet. Open
        <a class="link" href={withRange(`/services/${data.service ?? 'machines'}/board`)}
          >the board of {serviceByKey(data.service ?? 'machines').several}</a
        >
        and press <b>Alarm on this</b> on a panel: everything is filled in.
      </p>
    {/if}
  </section>
</main>
