<script lang="ts">
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import type { SuperValidated } from 'sveltekit-superforms';
  import { untrack } from 'svelte';
  import type { z } from 'zod';
  import { channelFormSchema, formKinds } from '$lib/core/forms/forms';
  import { channelKindWords, templateNames, type ChannelKind } from '$lib/core/notify';
  import { steadyForm } from '$lib/ui/forms/steady-form';

  interface Props {
    initial: SuperValidated<z.infer<typeof channelFormSchema>, string>;
    kinds?: readonly (ChannelKind & z.infer<typeof channelFormSchema>['kind'])[];
    title?: string;
    /** Whether it has a name besides its address. */
    withName?: boolean;
  }
  let { initial, kinds = formKinds, title = 'Add a channel', withName = true }: Props = $props();
  const { form, errors, message, enhance, submitting } = steadyForm(
    untrack(() => initial),
    // Without a name, the server takes the address for it.
    untrack(() => (withName ? { validators: zod4Client(channelFormSchema) } : {}))
  );
  const addressOf: Readonly<Record<(typeof formKinds)[number], { label: string; hint: string }>> = {
    email: { label: 'Address', hint: '' },
    'text-message': { label: 'Number', hint: 'With its country, such as +1 202 555 0143.' },
    'chat-hook': {
      label: 'Address of the hook',
      hint: 'Whoever has it may post in the room: it is sealed and never shown again.'
    },
    webhook: { label: 'Address', hint: 'Takes CloudEvents by POST, signed as by Standard Webhooks.' },
    topic: { label: '', hint: '' }
  };
  const address = $derived(addressOf[$form.kind]);
  const names = Object.keys(templateNames)
    .map((name) => `{{${name}}}`)
    .join(', ');
</script>

{#snippet below(problem: readonly string[] | undefined, hint = '')}
  {#if problem}<span class="fault" role="alert">{problem}</span>{:else if hint !== ''}<span class="text-quiet"
      >{hint}</span
    >{/if}
{/snippet}

<form method="post" action="?/add" use:enhance class="panel max-w-xl gap-3 p-4! text-[13px]" aria-label={title}>
  <h2>{title}</h2>
  <label
    ><span class="block font-semibold">Kind</span><select
      class="field"
      name="kind"
      aria-label="Kind"
      bind:value={$form.kind}
    >
      {#each kinds as kind (kind)}<option value={kind}>{channelKindWords[kind]}</option>{/each}
    </select></label
  >
  {#if withName}<div>
      <label
        ><span class="block font-semibold">Name</span><input
          class="field"
          name="name"
          bind:value={$form.name}
          aria-invalid={$errors.name ? 'true' : undefined}
        /></label
      >{@render below($errors.name)}
    </div>{/if}
  {#if $form.kind === 'topic'}<p class="text-quiet">
      A list of subscribers, who each confirm and can leave. Add them on its page.
    </p>{:else}<div>
      <label
        ><span class="block font-semibold">{address.label}</span><input
          class="field num"
          name="address"
          bind:value={$form.address}
          aria-invalid={$errors.address ? 'true' : undefined}
        /></label
      >{@render below($errors.address, address.hint)}
    </div>{/if}
  {#if $form.kind === 'chat-hook'}
    <div>
      <label
        ><span class="block font-semibold">Template, if the room takes another shape</span><textarea
          class="field num"
          name="template"
          rows="3"
          placeholder={'{ "text": "{{short}}" }'}
          bind:value={$form.template}
          aria-invalid={$errors.template ? 'true' : undefined}></textarea></label
      >{@render below($errors.template, `JSON with ${names}.`)}
    </div>
  {:else if $form.kind === 'webhook'}
    <label
      ><span class="block font-semibold">Form of the events</span><select
        class="field"
        name="mode"
        aria-label="Form of the events"
        bind:value={$form.mode}
      >
        <option value="structured">structured: all in the body</option>
        <option value="binary">binary: attributes in the headers</option>
      </select></label
    >
  {/if}
  {#if $message}<p class="text-ok break-all" role="status">{$message}</p>{/if}
  <button class="btn btn-main self-start" disabled={$submitting}
    >{$form.kind === 'topic'
      ? 'Add topic'
      : $form.kind === 'email' || (!withName && $form.kind === 'text-message')
        ? 'Add and send the link'
        : 'Add and send the code'}</button
  >
</form>
