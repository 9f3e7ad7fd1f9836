<script lang="ts">
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import { steadyForm } from '$lib/ui/forms/steady-form';
  import { untrack } from 'svelte';
  import { firstPersonSchema } from '$lib/core/people/forms';
  import Card from '$lib/ui/sign-in/Card.svelte';
  import Entry from '$lib/ui/sign-in/Entry.svelte';
  import NewPassword from '$lib/ui/sign-in/NewPassword.svelte';
  import ZoneEntry from '$lib/ui/sign-in/ZoneEntry.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { form, errors, enhance, submitting } = steadyForm(
    untrack(() => data.form),
    { validators: zod4Client(firstPersonSchema), resetForm: false }
  );
</script>

<Card title="The first administrator" note="You invite everybody else afterwards.">
  <form method="post" use:enhance class="flex flex-col gap-3">
    <Entry
      label="Your name"
      name="displayName"
      autocomplete="name"
      bind:value={$form.displayName}
      errors={$errors.displayName}
    />
    <Entry label="Sign-in name" name="name" autocomplete="username" bind:value={$form.name} errors={$errors.name} />
    <Entry
      label="Mail address"
      name="mail"
      type="email"
      autocomplete="email"
      bind:value={$form.mail}
      errors={$errors.mail}
    />
    <NewPassword bind:value={$form.password} errors={$errors.password} />
    <ZoneEntry bind:value={$form.zone} errors={$errors.zone} />
    <button class="btn btn-main self-start" disabled={$submitting}>Begin</button>
  </form>
</Card>
