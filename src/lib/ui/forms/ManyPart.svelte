<script lang="ts">
  import { Popover } from '@skeletonlabs/skeleton-svelte';

  interface Props {
    /** What is chosen from, such as "Severities". */
    label: string;
    /** What there is, in order; those with the same group stand together under its heading. */
    options: readonly { readonly value: string; readonly text: string; readonly group?: string }[];
    chosen: readonly string[];
    onChange: (chosen: string[]) => void;
    /** What the part says when nothing is chosen. */
    none: string;
    /** The word before the last of several. */
    last?: 'and' | 'or';
    disabled?: boolean;
  }
  let { label, options, chosen, onChange, none, last = 'or', disabled = false }: Props = $props();
  const names = $derived(
    chosen.map((value) => options.find((option) => option.value === value)?.text ?? 'something that was removed')
  );
  const text = $derived(
    names.length < 2 ? (names[0] ?? none) : `${names.slice(0, -1).join(', ')} ${last} ${names.at(-1)}`
  );
  /** In the order of the options, so that the same choice is the same sentence. */
  const toggle = (value: string) => {
    const wanted = new Set(chosen.includes(value) ? chosen.filter((one) => one !== value) : [...chosen, value]);
    onChange(options.map((option) => option.value).filter((one) => wanted.has(one)));
  };
</script>

<Popover positioning={{ placement: 'bottom-start' }}>
  <Popover.Trigger class="part text-left" aria-label="{label}: {text}" {disabled}>{text}</Popover.Trigger>
  <Popover.Positioner class="z-30!">
    <Popover.Content class="panel w-[260px] p-2! text-[13px] shadow-none">
      <ul class="max-h-[260px] overflow-y-auto" aria-label={label}>
        {#each options as option, index (option.value)}
          {#if option.group !== undefined && option.group !== options[index - 1]?.group}<li
              class="text-quiet px-1 pt-1 text-[12px]"
            >
              {option.group}
            </li>{/if}
          <li>
            <label class="flex items-center gap-2 px-1 py-0.5">
              <input type="checkbox" checked={chosen.includes(option.value)} onchange={() => toggle(option.value)} />
              <span class="break-words">{option.text}</span>
            </label>
          </li>
        {:else}<li class="text-quiet px-1 py-0.5">There is nothing to choose yet.</li>{/each}
      </ul>
    </Popover.Content>
  </Popover.Positioner>
</Popover>
