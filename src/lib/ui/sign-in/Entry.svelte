<script lang="ts">
  import type { HTMLInputAttributes } from 'svelte/elements';

  interface Props {
    label: string;
    name: string;
    value: string;
    errors?: readonly string[] | undefined;
    type?: 'text' | 'password' | 'email';
    autocomplete?: HTMLInputAttributes['autocomplete'];
    hint?: string;
  }
  let { label, name, value = $bindable(), errors, type = 'text', autocomplete = 'off', hint = '' }: Props = $props();
  const id = $props.id();
  const said = $derived(errors?.[0] ?? hint);
</script>

<div>
  <label class="mb-1 block text-[13px] font-semibold" for="{id}-{name}">{label}</label>
  <input
    class="field"
    id="{id}-{name}"
    {name}
    {type}
    {autocomplete}
    bind:value
    aria-invalid={errors ? 'true' : undefined}
    aria-describedby={said === '' ? undefined : `${id}-said`}
  />
  {#if said !== ''}<p id="{id}-said" class={['text-[13px]', errors ? 'fault' : 'text-quiet']}>{said}</p>{/if}
</div>
