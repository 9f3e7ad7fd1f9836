<script lang="ts" generics="Value extends { name: string; enabled: boolean }">
  import { untrack, type Snippet } from 'svelte';
  import type { z } from 'zod';
  import { goto } from '$app/navigation';
  import { problemsOf } from '$lib/core/forms/problems';
  import { Acting } from '../people/acting.svelte';
  import Outcome from '../people/Outcome.svelte';
  import { useReader } from '../time/reader';
  import AskedButton from './AskedButton.svelte';
  import ChangedElsewhere from './ChangedElsewhere.svelte';
  import { Elsewhere } from './elsewhere.svelte';

  interface Props {
    /** What is stored; null for a new one. */
    stored: {
      readonly id: number;
      readonly value: Value;
      readonly version: number;
      readonly changedBy: string;
      readonly alarmId?: number | null;
    } | null;
    /** What is edited. */
    value: Value;
    /** What it begins with. */
    given: Value;
    schema: z.ZodType<Value>;
    /** The collection of the API, and the field of a call under which the whole is sent. */
    path: '/budgets' | '/objectives' | '/checks' | '/event-rules' | '/responses' | '/summary-plans';
    field: string;
    /** What one is called within a sentence, and the form for those who cannot see it. */
    what: string;
    label: string;
    /** A name that one might have. */
    example: string;
    /** The page to go to once it is removed, and once it is made. */
    back: string;
    made?: (id: number) => string;
    /** What is said when it is saved, and asked before it is removed. */
    saved: string;
    question: string;
    /** Hears that what somebody else stored is in the form now. */
    onTake?: (value: Value) => void;
    class?: string;
    children: Snippet;
  }
  let {
    stored,
    value = $bindable(),
    given,
    schema,
    path,
    field,
    what,
    label,
    example,
    back,
    made = () => back,
    saved,
    question,
    onTake,
    class: classes = '',
    children
  }: Props = $props();
  const { mayEdit } = useReader();
  const acting = new Acting();
  let version = $state(untrack(() => stored?.version ?? 0));
  let problem = $state('');
  const elsewhere = new Elsewhere<Value>({
    stored: () => stored?.value ?? given,
    mine: () => value,
    take: (theirs) => {
      value = JSON.parse(JSON.stringify(theirs)) as Value;
      version = stored?.version ?? 0;
      onTake?.(value);
    }
  });

  async function save(): Promise<void> {
    const read = schema.safeParse($state.snapshot(value));
    problem = read.success ? '' : (problemsOf(read.error)[0]?.message ?? '');
    if (!read.success) return;
    if (stored === null) {
      const answered = await acting.call<{ id: number }>('POST', path, { body: read.data });
      if (answered !== null) await goto(made(answered.answer.id));
      return;
    }
    const body = { [field]: read.data, version };
    const answered = await acting.call<{ version: number }>('PUT', `${path}/${stored.id}`, { body }, saved);
    if (answered !== null) version = answered.answer.version;
  }
  async function remove(): Promise<void> {
    if (stored === null) return;
    if ((await acting.call('DELETE', `${path}/${stored.id}`)) !== null) await goto(back);
  }
</script>

<Outcome {acting} />
{#if stored !== null && elsewhere.theirs !== null && mayEdit}<ChangedElsewhere
    what="this {what}"
    by={stored.changedBy}
    onTheirs={() => elsewhere.takeTheirs()}
    onMine={() => {
      elsewhere.keepMine();
      version = stored.version;
    }}
  />{/if}
<form
  class={['panel flex flex-col gap-3 text-[13px]', classes]}
  aria-label={label}
  onsubmit={(event) => {
    event.preventDefault();
    void save();
  }}
>
  <label
    >Name <input
      class="field"
      maxlength="120"
      autocomplete="off"
      placeholder={example}
      disabled={!mayEdit}
      bind:value={value.name}
    /></label
  >
  {@render children()}
  <label class="flex items-center gap-2"
    ><input type="checkbox" disabled={!mayEdit} bind:checked={value.enabled} /> It is on</label
  >
  {#if problem !== ''}<p class="fault" role="alert">{problem}</p>{/if}
  {#if mayEdit}
    <div class="flex flex-wrap items-center gap-2">
      <button class="btn btn-main" disabled={acting.busy}>{stored === null ? `Add the ${what}` : 'Save'}</button>
      {#if stored?.alarmId}<a class="link" href="/alarms/{stored.alarmId}">Its alarm</a>{/if}
      {#if stored !== null}
        <AskedButton label="Remove" {question} disabled={acting.busy} onConfirm={() => void remove()} />
      {/if}
    </div>
  {/if}
</form>
