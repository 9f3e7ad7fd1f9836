<script lang="ts">
  import { callApi, answerOrNull, wordsOf } from '../api';
  import { untrack, type Snippet } from 'svelte';
  import type { SuperValidated } from 'sveltekit-superforms';
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import ChangedElsewhere from '../forms/ChangedElsewhere.svelte';
  import { Elsewhere } from '../forms/elsewhere.svelte';
  import { steadyForm } from '../forms/steady-form';
  import Plus from '@lucide/svelte/icons/plus';
  import type { LabelCondition } from '$lib/core/signal';
  import { groupSchema, type GroupDefinition } from '$lib/core/group';
  import ConditionPart from '../bench/ConditionPart.svelte';
  import { useReader } from '../time/reader';

  interface Props {
    form: SuperValidated<GroupDefinition>;
    /** The group as it is stored, which somebody else may change meanwhile; none before it is. */
    stored?: { readonly definition: GroupDefinition; readonly by: string } | null;
    /** What rules can look at, with the values that exist. */
    labels: { name: string; values: { value: string; count: number }[]; distinct: number }[];
    save: string;
    extra?: Snippet;
  }
  let { form: initial, stored = null, labels, save, extra }: Props = $props();
  const { mayEdit } = useReader();
  const { form, errors, enhance, submitting, message } = steadyForm(
    untrack(() => initial),
    { validators: zod4Client(groupSchema), dataType: 'json', resetForm: false }
  );
  const elsewhere = new Elsewhere<GroupDefinition | null>({
    stored: () => stored?.definition ?? null,
    mine: () => (stored === null ? null : $form),
    take: (definition) => {
      if (definition) $form = definition;
    }
  });
  interface Gathered {
    count: number;
    resources: { id: number; name: string; account: string; region: string; service: string }[];
  }
  let gathered = $state.raw<Gathered | null>(null);
  let problem = $state<string | null>(null);
  let asking: AbortController | null = null;

  async function gather(rule: object): Promise<void> {
    asking?.abort();
    const mine = (asking = new AbortController());
    const reply = await callApi<Gathered>('POST', '/groups/match', { body: rule, signal: mine.signal });
    if (reply.kind === 'cancelled') return;
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : null;
    gathered = answerOrNull(reply) ?? gathered;
  }
  const ruleText = $derived(JSON.stringify($form.rule));
  $effect(() => void gather(JSON.parse(ruleText) as object));

  function add(): void {
    const [first] = labels;
    const value = first?.values[0]?.value;
    if (first && value !== undefined)
      $form.rule.conditions = [...$form.rule.conditions, { label: first.name, is: [value] }];
  }
</script>

{#if elsewhere.theirs !== null && mayEdit}<ChangedElsewhere
    what="this group"
    by={stored?.by ?? ''}
    onTheirs={() => elsewhere.takeTheirs()}
    onMine={() => elsewhere.keepMine()}
  />{/if}
<form method="post" action="?/save" use:enhance class="flex flex-col gap-2.5">
  <section class="panel p-4!" aria-label="Rule">
    <fieldset disabled={!mayEdit} class="sentence">
      <span class="whitespace-nowrap"
        >The group <input class="part w-[18ch]" aria-label="Name of the group" bind:value={$form.name} /></span
      >
      gathers the resources that meet
      <select class="part" aria-label="How conditions are taken together" bind:value={$form.rule.match}>
        <option value="all">all</option><option value="any">any</option>
      </select>
      of:
      <ul>
        {#each $form.rule.conditions as condition, index (index)}
          <li class="pl-6">
            <ConditionPart
              {condition}
              {labels}
              empties={false}
              onChange={(to: LabelCondition) => ($form.rule.conditions = $form.rule.conditions.with(index, to))}
              onRemove={() =>
                $form.rule.conditions.length > 1 && ($form.rule.conditions = $form.rule.conditions.toSpliced(index, 1))}
            />
          </li>
        {/each}
      </ul>
      <button type="button" class="text-deep inline-flex items-center text-[13.5px]" onclick={add}
        ><Plus size={13} />another condition</button
      >
    </fieldset>
    {#each [...($errors.name ?? []), ...($errors._errors ?? [])] as text (text)}<p
        class="fault text-[13px]"
        role="alert"
      >
        {text}
      </p>{/each}
    {#if mayEdit}
      <p class="mt-2 flex items-center gap-2">
        <button class="btn btn-main" disabled={$submitting}>{save}</button>
        {#if $message}<span class="text-quiet" role="status">{$message}</span>{/if}
        {@render extra?.()}
      </p>
    {/if}
  </section>
</form>
<section class="panel mt-2.5" aria-label="In the group now">
  <header>
    <h2 data-testid="gathered">
      {gathered === null
        ? 'Looking …'
        : gathered.count === 1
          ? '1 resource is in it now'
          : `${gathered.count} resources are in it now`}
    </h2>
    {#if gathered && gathered.count > gathered.resources.length}<small
        >the first {gathered.resources.length} of them</small
      >{/if}
  </header>
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
  <ul class="columns-3 text-[13px] max-md:columns-1">
    {#each gathered?.resources ?? [] as { id, name, account, region } (id)}
      <li class="break-inside-avoid py-0.5">
        <a class="link" href="/resources/{id}">{name}</a>
        <span class="text-quiet">{account}, {region}</span>
      </li>
    {/each}
  </ul>
</section>
