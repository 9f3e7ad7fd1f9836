<script lang="ts">
  import { phases, phaseWords, type Attempt } from '$lib/core/reachability';
  import { useLive } from '../live/live.svelte';
  import Moment from '../time/Moment.svelte';
  import { isSoon, timeWords, validWords } from './words';

  let { attempt }: { attempt: Attempt } = $props();
  const live = useLive();
  const longest = $derived(Math.max(0.001, ...Object.values(attempt.phases)));
  const width = 160;
</script>

<p class="mb-1 text-[13px]">
  <b class={attempt.problem === null ? '' : 'fault'}>{attempt.problem ?? `Good, in ${timeWords(attempt.took)}.`}</b>
  <span class="text-quiet"
    >{#if attempt.status !== null && attempt.problem === null}status {attempt.status},{/if}
    {#if attempt.address !== ''}from {attempt.address},{/if}
    <Moment at={attempt.at} now={live.now} /></span
  >
</p>
<table class="rows text-[13px]" aria-label="Where the time went">
  <tbody>
    {#each phases as phase, index (phase)}
      {@const ms = attempt.phases[phase]}
      {#if ms !== undefined}
        <tr>
          <td class="text-quiet">{phaseWords[phase]}</td>
          <td
            ><svg {width} height="8" aria-hidden="true"
              ><rect width={Math.max(1, (ms / longest) * width)} height="8" fill="var(--hue-{index + 1})" /></svg
            ></td
          >
          <td class="num right">{timeWords(ms)}</td>
        </tr>
      {/if}
    {/each}
  </tbody>
</table>
{#if attempt.answers.length > 0}<p class="num mt-1 text-[12px] break-words">{attempt.answers.join(', ')}</p>{/if}
{#if attempt.certificateUntil !== null}
  <p class="mt-1 text-[13px]">
    The certificate expires <Moment at={attempt.certificateUntil} now={live.now} />,
    <b class={isSoon(attempt.certificateUntil, live.now) ? 'fault' : ''}
      >{validWords(attempt.certificateUntil, live.now) === 'expired'
        ? 'so it has expired'
        : `in ${validWords(attempt.certificateUntil, live.now)}`}</b
    >.
  </p>
{/if}
