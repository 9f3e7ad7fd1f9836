<script lang="ts">
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import { steadyForm } from '$lib/ui/forms/steady-form';
  import { untrack } from 'svelte';
  import { signInSchema } from '$lib/core/forms/forms';
  import Card from '$lib/ui/sign-in/Card.svelte';
  import Entry from '$lib/ui/sign-in/Entry.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { form, errors, enhance, submitting } = steadyForm(
    untrack(() => data.form),
    { validators: zod4Client(signInSchema), resetForm: false }
  );
</script>

<Card title="Sign in" note="Bussola of Corallo Lines">
  <form method="post" use:enhance class="flex flex-col gap-3">
    <Entry label="Name" name="name" autocomplete="username" bind:value={$form.name} errors={$errors.name} />
    <Entry
      label="Password"
      name="password"
      type="password"
      autocomplete="current-password"
      bind:value={$form.password}
      errors={$errors.password}
    />
    {#if $errors._errors}<p class="fault" role="alert">{$errors._errors[0]}</p>{/if}
    {#if data.empty}<p class="text-quiet text-[13px]">
        Nobody is here yet. The console on which Bussola was started has the address at which the first administrator is
        made.
      </p>{/if}
    <div class="flex items-center gap-4">
      <button class="btn btn-main" disabled={$submitting}>Sign in</button>
      <a class="link text-[13px]" href="/reset">Set a new password</a>
    </div>
  </form>
  {#if data.issuer !== null}<a
      class="btn self-start"
      href="/sign-in/with?to={encodeURIComponent(data.to)}"
      data-sveltekit-reload
      data-sveltekit-preload-data="off">Sign in by {data.issuer}</a
    >{/if}
</Card>
