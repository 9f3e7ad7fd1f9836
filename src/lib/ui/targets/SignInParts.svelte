<script lang="ts">
  import type { Targets } from '$lib/core/targets';

  interface Props {
    signIn: Targets['signIn'];
    secret: string;
    /** Whether there is a secret already, which stays unless another one is entered. */
    hasSecret: boolean;
  }
  let { signIn = $bindable(), secret = $bindable(), hasSecret }: Props = $props();
  const ways = {
    nothing: 'without signing in',
    bearer: 'with a bearer token',
    basic: 'with a name and a password',
    header: 'with a header',
    certificate: 'with a client certificate'
  } as const;
  const placeholder = $derived(hasSecret ? 'unchanged' : 'entered once, never shown again');

  function change(by: string): void {
    if (by === 'basic') signIn = { by, name: '' };
    else if (by === 'header') signIn = { by, header: 'X-Api-Key' };
    else if (by === 'certificate') signIn = { by, certificate: '' };
    else signIn = { by: by === 'bearer' ? 'bearer' : 'nothing' };
    secret = '';
  }
</script>

<div class="mt-2">
  Request them
  <select
    class="part"
    aria-label="How Bussola signs in"
    value={signIn.by}
    onchange={(event) => change(event.currentTarget.value)}
    >{#each Object.entries(ways) as [by, words] (by)}<option value={by}>{words}</option>{/each}</select
  >{#if signIn.by === 'basic'}
    <input class="part w-[14ch]" aria-label="Name" placeholder="name" autocomplete="off" bind:value={signIn.name} />
  {:else if signIn.by === 'header'}
    <input class="part w-[16ch]" aria-label="Header" autocomplete="off" bind:value={signIn.header} />
  {/if}{#if signIn.by === 'bearer' || signIn.by === 'basic' || signIn.by === 'header'}
    <input
      class="part w-[30ch] max-w-full"
      type="password"
      aria-label="Secret"
      autocomplete="new-password"
      {placeholder}
      bind:value={secret}
    />{/if}.
</div>
{#if signIn.by === 'certificate'}
  <div class="mt-2 grid grid-cols-2 gap-2 text-[13px] max-md:grid-cols-1">
    <label
      >Certificate (PEM) <textarea
        class="field num min-h-[90px] w-full text-[12px]!"
        spellcheck="false"
        bind:value={signIn.certificate}></textarea></label
    >
    <label
      >Its key (PEM) <textarea
        class="field num min-h-[90px] w-full text-[12px]!"
        spellcheck="false"
        autocomplete="off"
        {placeholder}
        bind:value={secret}></textarea></label
    >
  </div>
{/if}
