<script lang="ts">
  interface Props {
    label: string;
    /** What it is called where the label says nothing. */
    name?: string;
    value: number | undefined;
    placeholder?: string;
    /** Called with undefined when the field is emptied. */
    onChange: (value: number | undefined) => void;
  }
  let { label, name, value, placeholder = 'by the data', onChange }: Props = $props();

  function changed(event: Event & { currentTarget: HTMLInputElement }): void {
    const { value: text, valueAsNumber: number } = event.currentTarget;
    if (text === '') onChange(undefined);
    else if (Number.isFinite(number)) onChange(number);
  }
</script>

<label class="inline-flex items-center gap-1"
  >{label}
  <input
    class="part num w-[90px]"
    type="number"
    aria-label={name}
    step="any"
    {placeholder}
    value={value ?? ''}
    onchange={changed}
  /></label
>
