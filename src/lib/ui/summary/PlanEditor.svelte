<script lang="ts">
  import { untrack } from 'svelte';
  import { planWords, summaryPlanSchema, type SummaryPlan } from '$lib/core/summary';
  import DefinitionForm from '../forms/DefinitionForm.svelte';

  interface Props {
    stored: {
      readonly id: number;
      readonly plan: SummaryPlan;
      readonly version: number;
      readonly changedBy: string;
    } | null;
    given: SummaryPlan;
    channels: readonly { readonly id: number; readonly name: string; readonly isConfirmed: boolean }[];
  }
  let { stored, given, channels }: Props = $props();
  let value = $state(untrack(() => JSON.parse(JSON.stringify(stored?.plan ?? given)) as SummaryPlan));
  const zones = Intl.supportedValuesOf('timeZone');
  const toggle = (id: number, isOn: boolean) => {
    value.channels = isOn ? [...value.channels, id] : value.channels.filter((one) => one !== id);
  };
  const unconfirmed = $derived(
    channels.filter(({ id, isConfirmed }) => value.channels.includes(id) && !isConfirmed).map(({ name }) => name)
  );
</script>

<DefinitionForm
  stored={stored === null ? null : { ...stored, value: stored.plan }}
  bind:value
  {given}
  schema={summaryPlanSchema}
  path="/summary-plans"
  field="plan"
  what="summary"
  label="Summary that is sent regularly"
  example="Week for the harbour office"
  back="/summary"
  saved="Saved."
  question="It is sent no longer; what was sent is still listed. Remove it?"
  class="max-w-[720px]"
>
  <p class="sentence">
    Send the
    <select class="part" aria-label="Of what" bind:value={value.kind}>
      <option value="week">week</option>
      <option value="month">month</option>
    </select>
    {value.kind === 'week' ? 'each Monday' : 'on the first of the month'} at
    <input class="part" type="time" aria-label="Time of day" bind:value={value.at} />
    by the clocks of
    <input class="part w-[180px]" list="zones" aria-label="Time zone" bind:value={value.zone} />
    <datalist id="zones"
      >{#each zones as zone (zone)}<option value={zone}></option>{/each}</datalist
    >
  </p>
  <fieldset class="flex flex-col gap-1">
    <legend class="mb-1">To</legend>
    {#each channels as { id, name, isConfirmed } (id)}
      <label class="flex items-center gap-2"
        ><input
          type="checkbox"
          checked={value.channels.includes(id)}
          onchange={({ currentTarget }) => toggle(id, currentTarget.checked)}
        />
        {name}{#if !isConfirmed}<span class="text-quiet">not confirmed yet</span>{/if}</label
      >
    {:else}<p class="text-quiet">
        There is no channel yet. <a class="link" href="/channels">Make one</a> first.
      </p>{/each}
  </fieldset>
  {#if unconfirmed.length > 0}<p class="text-quiet">
      Nothing is sent to {unconfirmed.join(', ')} until whoever reads it has confirmed.
    </p>{/if}
  <p class="text-quiet">It is sent {planWords(value)}. Mails carry its pictures, a PDF and the numbers as CSV.</p>
</DefinitionForm>
