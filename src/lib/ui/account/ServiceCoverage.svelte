<script lang="ts">
  import { planBrief } from '$lib/core/intake';
  import { serviceByKey } from '$lib/core/services';
  import type { CollectionPlan } from '$lib/core/intake';
  import { withRange } from '../time/shown';
  import CoverageBar from './CoverageBar.svelte';
  import HourBars from './HourBars.svelte';

  interface Props {
    accountId: number;
    services: readonly {
      service: string;
      found: number;
      collected: number;
      guestOff: number;
      refused: string | null;
      plan: CollectionPlan;
      hours: readonly number[];
    }[];
    /** Why nothing can be found at present; null when that is not known to be so. */
    problem: string | null;
    /** The service whose plan is open. */
    open: string | null;
    onOpen: (service: string) => void;
  }
  let { accountId, services, problem, open, onOpen }: Props = $props();
</script>

<div class="overflow-x-auto">
  <table class="rows">
    <thead
      ><tr><th>Service</th><th class="right">Found</th><th>Collected</th><th>How</th><th>Samples, 24 h</th><th></th></tr
      ></thead
    >
    <tbody>
      {#each services as { service, found, collected, guestOff, refused, plan, hours } (service)}
        <tr class={[open === service && 'bg-shallow']} data-service={service}>
          <td><b>{serviceByKey(service).title}</b></td>
          <td class="num right">{found}</td>
          <td><CoverageBar {found} {collected} refused={refused !== null} /></td>
          <td class={['text-[12.5px]', refused === null ? 'text-quiet' : 'fault']}
            >{refused === null ? planBrief(plan) : `refused: ${refused}`}{#if guestOff > 0}; guest level off on {guestOff}{/if}</td
          >
          <td><HourBars {hours} /></td>
          <td class="right whitespace-nowrap">
            <a class="link text-[12.5px]" href={withRange(`/coverage?account=${accountId}&service=${service}`)}
              >each one</a
            >
            <button class="btn ml-1" aria-expanded={open === service} onclick={() => onOpen(service)}
              >{refused === null ? 'Plan' : 'How to fix it'}</button
            >
          </td>
        </tr>
      {:else}
        <tr>
          <td colspan="6" class="text-quiet"
            >{problem === null
              ? 'Nothing found yet. Bussola is looking for resources.'
              : `Nothing found: ${problem}`}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
</div>
