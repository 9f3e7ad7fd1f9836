<script lang="ts">
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import { steadyForm } from '$lib/ui/forms/steady-form';
  import { untrack } from 'svelte';
  import { joinSchema } from '$lib/core/people/forms';
  import Card from '$lib/ui/sign-in/Card.svelte';
  import NewPassword from '$lib/ui/sign-in/NewPassword.svelte';
  import ZoneEntry from '$lib/ui/sign-in/ZoneEntry.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { form, errors, enhance, submitting } = steadyForm(
    untrack(() => data.form),
    { validators: zod4Client(joinSchema), resetForm: false }
  );
</script>

<Card title="Welcome, {data.displayName}" note="You sign in as {data.name}; your role is {data.role}.">
  <form method="post" use:enhance class="flex flex-col gap-3">
    <NewPassword bind:value={$form.password} errors={$errors.password} />
    <ZoneEntry bind:value={$form.zone} errors={$errors.zone} />
    <button class="btn btn-main self-start" disabled={$submitting}>Join</button>
  </form>
</Card>
