<script lang="ts">
  import { spokenDuration, type Duration } from '$lib/core/time';

  interface Props {
    label: string;
    /** Milliseconds. */
    value: number;
    /** Lengths to choose from, in minutes. */
    minutes: readonly number[];
    onChange: (ms: number) => void;
    /** What the length 0 is called. */
    zero?: string;
    disabled?: boolean;
  }
  let { label, value, minutes, onChange, zero = 'at once', disabled = false }: Props = $props();
  const choices = $derived(
    [...new Set([...minutes.map((one) => one * 60_000), value])].sort((one, other) => one - other)
  );
</script>

<select
  class="part"
  aria-label={label}
  {disabled}
  {value}
  onchange={(event) => onChange(Number(event.currentTarget.value))}
>
  {#each choices as ms (ms)}<option value={ms}>{ms === 0 ? zero : spokenDuration(ms as Duration)}</option>{/each}
</select>
