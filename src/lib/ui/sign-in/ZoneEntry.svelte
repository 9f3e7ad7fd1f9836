<script lang="ts">
  import { onMount } from 'svelte';

  interface Props {
    /** That of the browser is proposed where none is chosen. */
    value: string;
    errors?: readonly string[] | undefined;
  }
  let { value = $bindable(), errors }: Props = $props();
  const zones = $derived([
    ...new Set([...(value === '' ? [] : [value]), 'UTC', ...Intl.supportedValuesOf('timeZone')])
  ]);
  onMount(() => {
    if (value === '') value = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC';
  });
</script>

<label>
  <span class="mb-1 block text-[13px] font-semibold">Time zone</span>
  <select class="field" name="zone" bind:value aria-invalid={errors ? 'true' : undefined}>
    {#each zones as zone (zone)}<option>{zone}</option>{/each}
  </select>
  {#if errors}<span class="fault text-[13px]">{errors[0]}</span>{/if}
</label>
