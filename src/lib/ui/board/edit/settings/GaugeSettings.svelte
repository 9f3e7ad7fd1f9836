<script lang="ts">
  import { limitsProblem, type PanelOf } from '$lib/core/board';
  import NumberField from './NumberField.svelte';

  interface Props {
    panel: PanelOf<'gauge'>;
    unit: string;
    onChange: (panel: PanelOf<'gauge'>) => void;
  }
  let { panel, unit, onChange }: Props = $props();
  const scale = $derived(panel.scale);
  let problem = $state<string | null>(null);
  /** What was entered while it contradicts the rest: saved with what resolves it. */
  let pending: Partial<PanelOf<'gauge'>> = {};

  function set(change: Partial<PanelOf<'gauge'>>): void {
    pending = { ...pending, ...change };
    const next = { ...panel, ...pending };
    problem = limitsProblem(next);
    if (problem !== null) return;
    pending = {};
    onChange(next);
  }
  /** Limits beyond the scale are never shown: most likely they are in another unit. */
  const outside = $derived(
    [panel.warning, panel.danger].filter((limit) => limit !== undefined && (limit < scale.from || limit > scale.to))
  );
</script>

<p class="leading-8">
  The scale runs
  <NumberField
    label="from"
    value={scale.from}
    onChange={(from: number | undefined) => from !== undefined && onChange({ ...panel, scale: { ...scale, from } })}
  />
  <NumberField
    label="to"
    value={scale.to}
    onChange={(to: number | undefined) => to !== undefined && onChange({ ...panel, scale: { ...scale, to } })}
  />
  {unit}; it gets worse
  <select
    class="part"
    aria-label="Where it gets worse"
    value={panel.worse}
    onchange={(event) => set({ worse: event.currentTarget.value as 'above' | 'below' })}
  >
    <option value="above">above</option>
    <option value="below">below</option>
  </select>
  <NumberField
    label="a warning at"
    placeholder="none"
    value={panel.warning}
    onChange={(warning: number | undefined) => set({ warning })}
  />
  {unit} and
  <NumberField
    label="danger at"
    placeholder="none"
    value={panel.danger}
    onChange={(danger: number | undefined) => set({ danger })}
  />
  {unit}.
</p>
{#if problem !== null}<p class="fault" role="alert">{problem} Not saved yet.</p>{/if}
{#if outside.length > 0}
  <p class="fault" role="alert">
    {outside.join(' and ')}
    {unit} lies outside the scale of {scale.from} to {scale.to}
    {unit}. Limits are in the unit of the scale.
  </p>
{/if}
