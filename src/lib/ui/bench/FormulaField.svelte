<script lang="ts">
  import type { Problem } from '$lib/core/problem/problem';
  import type { FormulaRow } from '$lib/core/signal';

  interface Props {
    row: FormulaRow;
    /** What is wrong with it, with the place; null when nothing is. */
    fault: Problem | null;
    /** Its unit, once it is computed. */
    unit: string | null;
    onChange: (row: FormulaRow) => void;
  }
  let { row, fault, unit, onChange }: Props = $props();
  const [from, to] = $derived(fault?.place ?? [0, 0]);
</script>

<div class="flex min-w-0 flex-1 items-start gap-3">
  <div class="min-w-0 flex-1">
    <input
      class={['field font-mono text-[13.5px]!', fault && 'border-major!']}
      aria-label="Formula of {row.name}"
      aria-invalid={fault !== null}
      spellcheck="false"
      autocomplete="off"
      placeholder="arithmetic on other rows, such as a / b * 100"
      value={row.formula}
      oninput={(event) => onChange({ ...row, formula: event.currentTarget.value })}
    />
    {#if fault}
      {#if fault.place}
        <p class="mt-1 px-2 font-mono text-[13.5px] break-all" aria-hidden="true">
          {row.formula.slice(0, from)}<mark class="bg-major text-panel px-0.5"
            >{row.formula.slice(from, to) || '?'}</mark
          >{row.formula.slice(to)}
        </p>
      {/if}
      <p class="fault mt-0.5 text-[13px]" role="alert">{fault.message} {fault.remedy}</p>
    {/if}
  </div>
  <span class="text-quiet shrink-0 pt-1.5 text-[12.5px]"
    >{unit === null ? '' : unit === '' ? 'no unit' : `in ${unit}`}</span
  >
</div>
