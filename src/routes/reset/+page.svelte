<script lang="ts">
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import { steadyForm } from '$lib/ui/forms/steady-form';
  import { untrack } from 'svelte';
  import { resetSchema } from '$lib/core/people/forms';
  import Card from '$lib/ui/sign-in/Card.svelte';
  import Entry from '$lib/ui/sign-in/Entry.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { form, errors, enhance, submitting, message } = steadyForm<{ name: string }, string>(
    untrack(() => data.form),
    { validators: zod4Client(resetSchema), resetForm: false }
  );
</script>

<Card title="Set a new password" note="A link is sent by mail. It is good for an hour.">
  <form method="post" use:enhance class="flex flex-col gap-3">
    <Entry
      label="Name or mail address"
      name="name"
      autocomplete="username"
      bind:value={$form.name}
      errors={$errors.name}
    />
    {#if $errors._errors}<p class="fault" role="alert">{$errors._errors[0]}</p>{/if}
    {#if $message}<p class="text-ok" role="status">{$message}</p>{/if}
    <div class="flex items-center gap-4">
      <button class="btn btn-main" disabled={$submitting}>Send the link</button>
      <a class="link text-[13px]" href="/sign-in">Sign in</a>
    </div>
  </form>
</Card>
