<script lang="ts">
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import { steadyForm } from '$lib/ui/forms/steady-form';
  import { untrack } from 'svelte';
  import { codeSchema } from '$lib/core/people/forms';
  import Card from '$lib/ui/sign-in/Card.svelte';
  import Entry from '$lib/ui/sign-in/Entry.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { form, errors, enhance, submitting } = steadyForm(
    untrack(() => data.form),
    { validators: zod4Client(codeSchema), resetForm: false }
  );
</script>

<Card title="Second factor" note="After five wrong codes the sign-in begins anew.">
  <form method="post" use:enhance class="flex flex-col gap-3">
    <Entry
      label="Code"
      name="code"
      autocomplete="one-time-code"
      bind:value={$form.code}
      errors={$errors.code}
      hint="Six digits of your authenticator, or a recovery code."
    />
    <div class="flex items-center gap-4">
      <button class="btn btn-main" disabled={$submitting}>Sign in</button>
      <a class="link text-[13px]" href="/sign-in">Begin anew</a>
    </div>
  </form>
</Card>
