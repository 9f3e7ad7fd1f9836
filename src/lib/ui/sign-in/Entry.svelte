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
</script>

<label>
  <span class="mb-1 block text-[13px] font-semibold">{label}</span>
  <input class="field" {name} {type} {autocomplete} bind:value aria-invalid={errors ? 'true' : undefined} />
  {#if errors}<span class="fault text-[13px]">{errors[0]}</span>{:else if hint}<span class="text-quiet text-[13px]"
      >{hint}</span
    >{/if}
</label>
