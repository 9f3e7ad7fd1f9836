<script lang="ts">
  import { untrack } from 'svelte';
  import { backupPlanSchema, backupPlanWords, type BackupPlan } from '$lib/core/backup';
  import { problemsOf } from '$lib/core/forms/problems';
  import ChangedElsewhere from '../forms/ChangedElsewhere.svelte';
  import { Elsewhere } from '../forms/elsewhere.svelte';
  import type { Acting } from '../people/acting.svelte';

  interface Props {
    acting: Acting;
    stored: { readonly plan: BackupPlan; readonly version: number; readonly changedBy: string } | null;
    given: BackupPlan;
    onSaved: () => Promise<void>;
  }
  let { acting, stored, given, onSaved }: Props = $props();
  const copy = (plan: BackupPlan): BackupPlan => ({ ...plan });
  let value = $state(untrack(() => copy(stored?.plan ?? { ...given, enabled: false })));
  let version = $state(untrack(() => stored?.version ?? null));
  let problem = $state('');
  const zones = Intl.supportedValuesOf('timeZone');
  const elsewhere = new Elsewhere<BackupPlan>({
    stored: () => stored?.plan ?? { ...given, enabled: false },
    mine: () => value,
    take: (theirs) => {
      value = copy(theirs);
      version = stored?.version ?? null;
    }
  });
  const weekdays = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

  async function save(): Promise<void> {
    const read = backupPlanSchema.safeParse($state.snapshot(value));
    problem = read.success ? '' : (problemsOf(read.error)[0]?.message ?? '');
    if (!read.success) return;
    const words = read.data.enabled
      ? `Backups are made ${backupPlanWords(read.data)}.`
      : 'No backups are made but by hand.';
    if ((await acting.call('PUT', '/backups/plan', { body: { plan: read.data, version } }, words)) === null) return;
    version = (version ?? 0) + 1;
    await onSaved();
  }
</script>

{#if stored !== null && elsewhere.theirs !== null}<ChangedElsewhere
    what="the schedule"
    by={stored.changedBy}
    onTheirs={() => elsewhere.takeTheirs()}
    onMine={() => {
      elsewhere.keepMine();
      version = stored.version;
    }}
  />{/if}
<form
  class="panel flex flex-col gap-2 text-[13px]"
  aria-label="Schedule of backups"
  novalidate
  onsubmit={(event) => {
    event.preventDefault();
    void save();
  }}
>
  <header><h2>Schedule</h2></header>
  <label class="flex items-center gap-2"
    ><input type="checkbox" bind:checked={value.enabled} /> Make backups regularly</label
  >
  <p class="sentence">
    Back up each
    <select class="part" aria-label="How often" bind:value={value.every}>
      <option value="day">day</option>
      <option value="week">week, on</option>
    </select>
    {#if value.every === 'week'}<select class="part" aria-label="Day of the week" bind:value={value.weekday}>
        {#each weekdays as name, index (name)}<option value={index + 1}>{name}</option>{/each}
      </select>{/if}
    at
    <input class="part" type="time" aria-label="Time of day" bind:value={value.at} />
    by the clocks of
    <input class="part w-[160px]" list="backup-zones" aria-label="Time zone" bind:value={value.zone} />
    <datalist id="backup-zones"
      >{#each zones as zone (zone)}<option value={zone}></option>{/each}</datalist
    >. The newest
    <input class="part w-[64px]" type="number" min="1" max="400" aria-label="How many stay" bind:value={value.stay} />
    stay. Rehearse restoring
    <select class="part" aria-label="How often restoring is rehearsed" bind:value={value.rehearse}>
      <option value="each">each of them</option>
      <option value="week">one each week</option>
      <option value="never">none</option>
    </select>.
  </p>
  {#if problem !== ''}<p class="fault" role="alert">{problem}</p>{/if}
  <p><button class="btn btn-main" disabled={acting.busy}>Save the schedule</button></p>
</form>
