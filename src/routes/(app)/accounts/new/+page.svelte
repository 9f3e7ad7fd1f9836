<script lang="ts">
  import { untrack } from 'svelte';
  import { zod4Client } from 'sveltekit-superforms/adapters';
  import { steadyForm } from '$lib/ui/forms/steady-form';
  import { accountFormSchema } from '$lib/core/forms/forms';
  import AccessChecks from '$lib/ui/account/AccessChecks.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const { form, errors, message, enhance, submitting, delayed } = steadyForm(
    untrack(() => data.form),
    {
      validators: zod4Client(accountFormSchema),
      resetForm: false,
      invalidateAll: false,
      // The server never sends the secret back: here it stays until it was accepted.
      onUpdate: ({ form: answer }) => {
        answer.data.secret = $form.secret;
      }
    }
  );
  const provider = $derived(data.providers.find(({ key }) => key === $form.provider) ?? data.providers[0]);
  const fields = $derived([
    { name: 'name', label: 'Name in Bussola', hint: 'as people here call it, such as corallo-prod', type: 'text' },
    { name: 'endpoint', label: provider?.guide.endpointLabel ?? '', hint: 'where its requests go', type: 'url' },
    { name: 'keyId', label: provider?.guide.keyLabel ?? '', hint: '', type: 'text' },
    {
      name: 'secret',
      label: provider?.guide.secretLabel ?? '',
      hint: 'entered once, sealed at rest, never shown again',
      type: 'password'
    }
  ] as const);
  /** The test failed at what nothing works without; changing anything begins anew. */
  const refused = $derived(($message ?? []).slice(0, 3).some((check) => !check.passed));
  const passed = $derived($message?.every((check) => check.passed) ?? false);
</script>

<svelte:head><title>Connect an account · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">Connect an account</h1>
  <form
    method="post"
    action="?/connect"
    use:enhance
    class="grid max-w-5xl grid-cols-2 items-start gap-2.5 max-lg:grid-cols-1"
  >
    <div class="panel gap-3 p-4!">
      <label class="text-[13px]"
        ><span class="block font-semibold">Provider</span><select
          class="field"
          name="provider"
          bind:value={$form.provider}
          >{#each data.providers as { key, name } (key)}<option value={key}>{name}</option>{/each}</select
        ></label
      >
      <p class="text-[13px]">
        Not at a provider? <a class="link" href="/accounts/new/pages">Read OpenMetrics pages</a> of your own programs.
      </p>
      {#each fields as { name, label, hint, type } (name)}
        <label class="text-[13px]">
          <span class="block"><b class="font-semibold">{label}</b> <span class="text-quiet">{hint}</span></span>
          <input
            class={['field', name !== 'name' && 'num']}
            {name}
            {type}
            bind:value={$form[name]}
            autocomplete="off"
            spellcheck="false"
            aria-invalid={$errors[name] ? 'true' : undefined}
          />
          {#if $errors[name]}<span class="fault" role="alert">{$errors[name]}</span>{/if}
        </label>
      {/each}
      <div class="flex items-center gap-2">
        <button class={['btn', !passed && 'btn-main']} formaction="?/test" disabled={$submitting}>Test it</button>
        {#if refused}
          <button class="btn" formaction="?/connectAnyway" disabled={$submitting}>Connect anyway</button>
        {:else}<button class={['btn', passed && 'btn-main']} disabled={$submitting}>Connect</button>{/if}
        {#if $delayed}<span class="text-quiet text-[13px]" role="status">Asking the provider…</span>{/if}
      </div>
    </div>
    <div class="flex flex-col gap-2.5">
      <section class="panel" aria-label="The test">
        <header>
          <h2>The test</h2>
          <small>{$message ? (passed ? 'everything passed' : 'something is missing') : 'not tried yet'}</small>
        </header>
        {#if $message}<AccessChecks checks={$message} />{:else}
          <p class="text-quiet text-[13px]">
            Test it before you connect. Each right is checked separately, and the result says what to do about a missing
            one. Nothing is saved.
          </p>
        {/if}
      </section>
      {#if provider}
        <section class="panel" aria-label="What to grant at {provider.name}">
          <header><h2>What to grant at {provider.name}</h2></header>
          <ol class="mb-2 list-decimal pl-5 text-[13px]">
            {#each provider.guide.steps as step (step)}<li class="py-0.5">{step}</li>{/each}
          </ol>
          <table class="rows">
            <tbody>
              {#each provider.guide.rights as { right, why, optional } (right)}
                <tr
                  ><td class="num whitespace-nowrap">{right}</td><td>{why}{optional ? ' (if you want it)' : ''}</td></tr
                >
              {/each}
            </tbody>
          </table>
        </section>
      {/if}
    </div>
  </form>
</main>
