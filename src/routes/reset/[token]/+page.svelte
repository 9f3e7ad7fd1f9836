<script lang="ts">
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import { steadyForm } from '$lib/ui/forms/steady-form';
  import { untrack } from 'svelte';
  import { newPasswordSchema } from '$lib/core/people/forms';
  import Card from '$lib/ui/sign-in/Card.svelte';
  import NewPassword from '$lib/ui/sign-in/NewPassword.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { form, errors, enhance, submitting } = steadyForm(
    untrack(() => data.form),
    { validators: zod4Client(newPasswordSchema), resetForm: false }
  );
</script>

<Card title="Set a new password" note="For {data.name}, who is signed out everywhere by it.">
  <form method="post" use:enhance class="flex flex-col gap-3">
    <NewPassword label="New password" bind:value={$form.password} errors={$errors.password} />
    <button class="btn btn-main self-start" disabled={$submitting}>Set it</button>
  </form>
</Card>
