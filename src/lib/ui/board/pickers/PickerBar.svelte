<script lang="ts">
  import type { Choices, Picker } from '$lib/core/board';
  import PickerControl from './PickerControl.svelte';
  import { pickerValues, type PickerValues } from './picker-values';

  interface Props {
    pickers: readonly Picker[];
    choices: Choices;
    /** Metrics of all panels: where values come from when a picker names none. */
    metrics: readonly string[];
    onChoose: (picker: Picker, values: string[]) => void;
  }
  let { pickers, choices, metrics, onChoose }: Props = $props();
  let known = $state.raw<Readonly<Record<string, PickerValues | null | undefined>>>({});

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
    onChoose={(values: string[]) => onChoose(picker, values)}
  />
{/each}
