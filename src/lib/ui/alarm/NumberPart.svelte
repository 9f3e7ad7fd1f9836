<script lang="ts">
  interface Props {
    name: string;
    /** NaN while nothing is typed. */
    value: number;
    /** After the number, as people write it. */
    unit: string;
    /** The least that may be typed; any number by default. */
    least?: number;
    onChange: (value: number) => void;
  }
  let { name, value, unit, least, onChange }: Props = $props();
</script>

<span class="whitespace-nowrap"
  ><input
    class="part w-[9ch] text-right"
    type="number"
    step="any"
    min={least}
    required
    aria-label={name}
    value={Number.isFinite(value) ? value : ''}
    oninput={(event) => onChange(event.currentTarget.valueAsNumber)}
  />
  {unit}</span
>
