<script lang="ts">
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import { steadyForm } from '$lib/ui/forms/steady-form';
  import { untrack } from 'svelte';
  import { signInSchema } from '$lib/core/forms/forms';
  import Rose from '$lib/ui/helm/Rose.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { form, errors, enhance, submitting } = steadyForm(
    untrack(() => data.form),
    { validators: zod4Client(signInSchema), resetForm: false }
  );
</script>

<svelte:head><title>Sign in · Bussola</title></svelte:head>
<main class="grid min-h-full place-items-center p-4">
  <form method="post" use:enhance class="panel w-full max-w-sm gap-3 p-6!">
    <div class="flex items-center gap-3">
      <Rose size={34} />
      <div>
        <h1>Bussola</h1>
        <p class="text-quiet text-[13px]">Corallo Lines</p>
      </div>
    </div>
    <label>
      <span class="mb-1 block text-[13px] font-semibold">Name</span>
      <input
        class="field"
        name="name"
        autocomplete="username"
        bind:value={$form.name}
        aria-invalid={$errors.name ? 'true' : undefined}
      />
      {#if $errors.name}<span class="fault text-[13px]">{$errors.name}</span>{/if}
    </label>
    <label>
      <span class="mb-1 block text-[13px] font-semibold">Password</span>
      <input
        class="field"
        name="password"
        type="password"
        autocomplete="current-password"
        bind:value={$form.password}
        aria-invalid={$errors.password ? 'true' : undefined}
      />
      {#if $errors.password}<span class="fault text-[13px]">{$errors.password}</span>{/if}
    </label>
    {#if $errors._errors}<p class="fault" role="alert">{$errors._errors[0]}</p>{/if}
    {#if data.empty}<p class="text-quiet text-[13px]">
        Nobody is known here yet. Start with <code class="num">npm run demo</code> to have the people of Corallo Lines.
      </p>{/if}
    <button class="btn btn-main self-start" disabled={$submitting}>Sign in</button>
  </form>
</main>
