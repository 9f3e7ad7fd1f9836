<script lang="ts">
  import { Popover } from '@skeletonlabs/skeleton-svelte';

  interface Props {
    /** What is chosen from, such as `region`. */
    label: string;
    /** Values that exist, with how many series have each. */
    values: readonly { value: string; count: number }[];
    /** How many there are in all; more than are listed can be typed. */
    distinct: number;
    chosen: readonly string[];
    onChange: (chosen: string[]) => void;
    /** What is said when nothing is chosen. */
    none?: string;
  }
  let { label, values, distinct, chosen, onChange, none = 'choose' }: Props = $props();
  let text = $state('');
  const listed = $derived([
    ...chosen.filter((value) => !values.some((one) => one.value === value)).map((value) => ({ value, count: 0 })),
    ...values
  ]);
  const found = $derived(listed.filter(({ value }) => value.toLowerCase().includes(text.toLowerCase())));
  const typed = $derived(text.trim() !== '' && !listed.some(({ value }) => value === text.trim()) ? text.trim() : null);

  function toggle(value: string): void {
    onChange(chosen.includes(value) ? chosen.filter((one) => one !== value) : [...chosen, value]);
  }
</script>

<Popover positioning={{ placement: 'bottom-start' }}>
  <Popover.Trigger class="part" aria-label="Values of {label}">{chosen.join(', ') || none}</Popover.Trigger>
  <Popover.Positioner class="z-30!">
    <Popover.Content class="panel w-[280px] p-2! text-[13px] shadow-none">
      <input
        class="field mb-1 text-[13px]!"
        placeholder="Find among {distinct}"
        aria-label="Find a value"
        bind:value={text}
      />
      <ul class="max-h-[240px] overflow-y-auto">
        {#each found as { value, count } (value)}
          <li>
            <label class="flex items-center gap-2 px-1 py-0.5">
              <input type="checkbox" checked={chosen.includes(value)} onchange={() => toggle(value)} />
              <span class="break-all">{value}</span>
              <span class="num text-quiet ml-auto">{count}</span>
            </label>
          </li>
        {/each}
        {#if typed !== null}
          <li><button class="link px-1 py-0.5" onclick={() => (toggle(typed), (text = ''))}>Use “{typed}”</button></li>
        {:else if found.length === 0}
          <li class="text-quiet px-1 py-0.5">No value is like this.</li>
        {/if}
      </ul>
    </Popover.Content>
  </Popover.Positioner>
</Popover>
