<script lang="ts">
  import type { Choices, Picker } from '$lib/core/board';
  import PickerControl from './PickerControl.svelte';
  import { pickerValues, stillThere, type PickerValues } from './picker-values';

  interface Props {
    pickers: readonly Picker[];
    choices: Choices;
    /** Metrics of all panels: where values come from when a picker names none. */
    metrics: readonly string[];
    onChoose: (picker: Picker, values: string[]) => void;
  }
  let { pickers, choices, metrics, onChoose }: Props = $props();
  let known = $state.raw<Readonly<Record<string, PickerValues | null | undefined>>>({});

  /** Chooses, and gives up what the pickers after it had chosen and can choose no more. */
  async function choose(picker: Picker, chosen: string[]): Promise<void> {
    onChoose(picker, chosen);
    let now: Choices = { ...choices, [picker.name]: chosen };
    for (const later of pickers.slice(pickers.indexOf(picker) + 1)) {
      const before = now[later.name] ?? [];
      if (before.length === 0) continue;
      const left = await stillThere(later, before, pickers, now, metrics);
      if (left.length === before.length) continue;
      now = { ...now, [later.name]: left };
      onChoose(later, left);
    }
  }

  /** Values depend on what the pickers before choose: they are read when a list is opened. */
  async function read(picker: Picker): Promise<void> {
    known = { ...known, [picker.name]: known[picker.name] ?? undefined };
    const values = await pickerValues(picker, pickers, choices, metrics);
    known = { ...known, [picker.name]: values };
  }
</script>

{#each pickers as picker (picker.name)}
  <PickerControl
    {picker}
    chosen={choices[picker.name] ?? []}
    values={known[picker.name] ?? null}
    isLost={known[picker.name] === null}
    onOpen={() => void read(picker)}
    onChoose={(values: string[]) => void choose(picker, values)}
  />
{/each}
