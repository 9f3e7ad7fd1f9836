<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { severities, type AlarmChange, type Severity } from '$lib/core/alarm';
  import { countOf } from '$lib/core/words/count';
  import { callApi, wordsOf } from '../api';

  interface Many {
    readonly changed: readonly { readonly id: number; readonly version: number | null }[];
    readonly skipped: readonly { readonly name: string; readonly why: string }[];
  }
  interface Props {
    /** Ids of the alarms that are chosen. */
    chosen: readonly number[];
    routes: readonly { readonly id: number; readonly name: string }[];
    owners: readonly string[];
    onClear: () => void;
  }
  let { chosen, routes, owners, onClear }: Props = $props();
  let isBusy = $state(false);
  let problem = $state('');
  /** What was done last, and can be taken back. */
  let done = $state.raw<{ readonly says: string; readonly many: Many } | null>(null);
  let owner = $state('');
  let label = $state('');
  let isRemoving = $state(false);
  const count = $derived(countOf(chosen.length, 'alarm'));

  async function send(path: string, body: object, says: (many: Many) => string): Promise<void> {
    isBusy = true;
    const reply = await callApi<Many>('POST', path, { body });
    isBusy = false;
    isRemoving = false;
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    if (reply.kind === 'answered') done = { says: says(reply.answer), many: reply.answer };
    await invalidate('bussola:overview');
  }
  const change = (of: AlarmChange, what: string) =>
    send(
      '/alarms/change',
      { ids: chosen, change: of },
      ({ changed }) => `${countOf(changed.length, 'alarm')} ${what}.`
    );

  async function undo(): Promise<void> {
    if (done === null) return;
    const { changed } = done.many;
    await send('/alarms/undo', { changed }, (many) => `Taken back for ${countOf(many.changed.length, 'alarm')}.`);
    if (done && problem === '') done = { ...done, many: { ...done.many, changed: [] } };
  }

  /** "team=gates" gives a label, "team=" takes it away. */
  function giveLabel(): void {
    const [name = '', ...value] = label.split('=');
    if (name.trim() === '' || !label.includes('=')) {
      problem = 'Write a label as name=value; name= takes it away.';
      return;
    }
    void change({ labels: { [name.trim()]: value.join('=').trim() } }, 'labelled');
    label = '';
  }
  const severity = (event: Event & { currentTarget: HTMLSelectElement }) => {
    const { value } = event.currentTarget;
    event.currentTarget.value = '';
    void change({ severity: value as Severity }, `changed to ${value}`);
  };
  const route = (event: Event & { currentTarget: HTMLSelectElement }) => {
    const { value } = event.currentTarget;
    event.currentTarget.value = '';
    const id = value === 'list' ? null : Number(value);
    const name = routes.find((one) => one.id === id)?.name;
    void change({ route: id }, name === undefined ? 'left to the list of routes' : `use the route ${name} now`);
  };
</script>

{#if chosen.length > 0}
  <div
    class="panel mb-2 flex flex-row! flex-wrap items-center gap-2 py-2! text-[13px]"
    role="toolbar"
    aria-label="What to do with the chosen alarms"
  >
    <b class="mr-1">{count} chosen</b>
    <select class="field w-auto!" aria-label="Change the severity" disabled={isBusy} value="" onchange={severity}>
      <option value="" disabled hidden>Severity</option>
      {#each severities as name (name)}<option>{name}</option>{/each}
    </select>
    <select class="field w-auto!" aria-label="Change who is notified" disabled={isBusy} value="" onchange={route}>
      <option value="" disabled hidden>Route</option>
      <option value="list">The list of routes decides</option>
      {#each routes as { id, name } (id)}<option value={id}>Always the route {name}</option>{/each}
    </select>
    <form
      class="flex gap-1"
      onsubmit={(event) => {
        event.preventDefault();
        void change({ owner: owner.trim() }, owner.trim() === '' ? 'have no owner now' : `belong to ${owner.trim()}`);
      }}
    >
      <input class="field w-[120px]!" placeholder="Owner" aria-label="Owner" list="owners" bind:value={owner} />
      <datalist id="owners"
        >{#each owners as name (name)}<option value={name}></option>{/each}</datalist
      >
      <button class="btn" disabled={isBusy}>Set</button>
    </form>
    <form
      class="flex gap-1"
      onsubmit={(event) => {
        event.preventDefault();
        giveLabel();
      }}
    >
      <input class="field w-[130px]!" placeholder="label=value" aria-label="Label" bind:value={label} />
      <button class="btn" disabled={isBusy}>Label</button>
    </form>
    <button class="btn" disabled={isBusy} onclick={() => void change({ enabled: false }, 'switched off')}
      >Switch off</button
    >
    <button class="btn" disabled={isBusy} onclick={() => void change({ enabled: true }, 'switched on')}
      >Switch on</button
    >
    {#if chosen.length >= 2 && chosen.length <= 10}<a class="btn" href="/alarms/new?combine={chosen.join(',')}"
        >Combine</a
      >{/if}
    <a class="btn" href="/api/v1/alarms/file?ids={chosen.join(',')}" download>Export</a>
    {#if isRemoving}
      <span role="alert">Remove {count}? Their open incidents are closed.</span>
      <button
        class="btn btn-main"
        disabled={isBusy}
        onclick={() =>
          void send('/alarms/remove', { ids: chosen }, ({ changed }) => `${countOf(changed.length, 'alarm')} removed.`)}
        >Remove</button
      >
      <button class="btn" onclick={() => (isRemoving = false)}>Cancel</button>
    {:else}<button class="btn" disabled={isBusy} onclick={() => (isRemoving = true)}>Remove…</button>{/if}
    <button class="link ml-auto" onclick={onClear}>Choose none</button>
  </div>
{/if}
{#if problem}<p class="fault mb-2 text-[13px]" role="alert">{problem}</p>{/if}
{#if done}
  <div class="panel mb-2 flex flex-row! flex-wrap items-center gap-3 py-2! text-[13px]" role="status">
    <span>{done.says}</span>
    {#if done.many.changed.length > 0}<button class="btn" disabled={isBusy} onclick={() => void undo()}>Undo</button
      >{/if}
    {#each done.many.skipped as { name, why } (name)}<span class="text-quiet"
        ><b>{name}</b> was left as it is: {why}</span
      >{/each}
    <button class="link ml-auto" onclick={() => (done = null)}>Close</button>
  </div>
{/if}
