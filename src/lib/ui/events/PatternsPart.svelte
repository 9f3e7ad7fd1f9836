<script lang="ts">
  interface Props {
    label: string;
    /** What holds for all, while nothing is written. */
    none: string;
    patterns: readonly string[];
    /** What there is, to choose from. */
    known: readonly string[];
    disabled?: boolean;
    onChange: (patterns: string[]) => void;
  }
  let { label, none, patterns, known, disabled = false, onChange }: Props = $props();
  const id = $props.id();
  /** As it is written, so that a comma can be typed. */
  let typed = $state<string | null>(null);
  const read = (text: string): string[] =>
    text
      .split(',')
      .map((one) => one.trim())
      .filter((one) => one !== '');
</script>

<input
  class="part w-[18ch]"
  aria-label={label}
  placeholder={none}
  list="known-{id}"
  autocomplete="off"
  {disabled}
  value={typed ?? patterns.join(', ')}
  oninput={(event) => {
    typed = event.currentTarget.value;
    onChange(read(typed));
  }}
  onblur={() => (typed = null)}
/><datalist id="known-{id}"
  >{#each known as one (one)}<option value={one}></option>{/each}</datalist
>
