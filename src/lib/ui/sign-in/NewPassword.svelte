<script lang="ts">
  import Entry from './Entry.svelte';

  interface Props {
    label?: string;
    name?: string;
    value: string;
    errors?: readonly string[] | undefined;
  }
  let { label = 'Password', name = 'password', value = $bindable(), errors }: Props = $props();
</script>

<Entry
  {label}
  {name}
  type="password"
  autocomplete="new-password"
  bind:value
  {errors}
  hint="Ten characters or more, hard to guess: several words that do not belong together."
/>
