<script lang="ts">
  import { fieldStatistics, patternFields, type FieldStatistic, type LinePattern } from '$lib/core/logs';
  import type { Problem } from '$lib/core/problem/problem';
  import { statisticName } from '$lib/core/series';
  import { linesRowSchema, spokenCondition, type LinesRow } from '$lib/core/signal';
  import { answerOrNull, callApi } from '../api';
  import SearchField from '../logs/SearchField.svelte';
  import UnitChoice from '../unit/UnitChoice.svelte';
  import PatternPart from './PatternPart.svelte';
  import ValueChooser from './ValueChooser.svelte';

  interface Props {
    row: LinesRow;
    /** What is wrong with it, with the place; null when nothing is. */
    fault: Problem | null;
    /** The range in which names, values and samples are looked for, as the API takes it. */
    span: Record<string, string>;
    onChange: (row: LinesRow) => void;
  }
  let { row, fault, span, onChange }: Props = $props();
  const given = $derived(row.lines);
  let typed = $derived(given);
  let names = $state.raw<readonly { value: string; count: number }[]>([]);
  /** What every line can be told apart by. */
  const always = ['severity', 'service', 'resource', 'stream', 'account', 'shape'];
  const own = $derived(row.pattern === undefined ? [] : patternFields(row.pattern));
  const fields = $derived([
    ...own.map((value) => ({ value, count: 0 })),
    ...always.map((value) => ({ value, count: 0 })),
    ...names.filter(({ value }) => !always.includes(value) && !own.includes(value))
  ]);
  $effect(() => {
    const asking = new AbortController();
    void callApi<{ fields: { name: string; lines: number }[] }>('GET', '/lines/fields', {
      query: span,
      signal: asking.signal
    }).then((reply) => {
      if (!asking.signal.aborted)
        names = (answerOrNull(reply)?.fields ?? []).map(({ name, lines }) => ({ value: name, count: lines }));
    });
    return () => asking.abort();
  });
  let problem = $state('');
  /** What stands where the search cannot be read; empty at its end. */
  const faulty = $derived(
    fault?.place ? row.lines.slice(fault.place[0], Math.max(fault.place[1], fault.place[0] + 1)) : ''
  );

  /** Takes a change that can be used; says why not of one that cannot. */
  function change(to: { [Key in keyof LinesRow]?: LinesRow[Key] | undefined }): void {
    const next = Object.fromEntries(Object.entries({ ...row, ...to }).filter(([, value]) => value !== undefined));
    const read = linesRowSchema.safeParse(next);
    problem = read.success ? '' : (read.error.issues[0]?.message ?? '');
    if (read.success) onChange(read.data);
  }
  function take(statistic: string): void {
    change({
      of:
        statistic === ''
          ? undefined
          : {
              field: row.of?.field ?? own[0] ?? 'duration',
              unit: row.of?.unit ?? '1',
              statistic: statistic as FieldStatistic
            }
    });
  }
  const searched = (): void => {
    if (typed !== row.lines) change({ lines: typed });
  };
</script>

<div class="flex min-w-0 flex-1 flex-col gap-1 text-[14.5px] leading-[2]">
  <div>
    <select
      class="part"
      aria-label="What is taken of lines for {row.name}"
      value={row.of?.statistic ?? ''}
      onchange={(event) => take(event.currentTarget.value)}
    >
      <option value="">the number</option>
      {#each fieldStatistics as one (one)}<option value={one}>{statisticName(one)}</option>{/each}
    </select>
    {#if row.of}
      of
      <input
        class="part w-[16ch]"
        aria-label="Field of {row.name}"
        list="fields-of-{row.name}"
        value={row.of.field}
        onchange={(event) => row.of && change({ of: { ...row.of, field: event.currentTarget.value.trim() } })}
      />
      <datalist id="fields-of-{row.name}">
        {#each fields as { value } (value)}<option {value}></option>{/each}
      </datalist>
      in
      <UnitChoice
        label="Unit of the field"
        value={row.of.unit === '1' ? undefined : row.of.unit}
        from={null}
        example={null}
        none="plain numbers"
        onChoose={(code: string | undefined) => row.of && change({ of: { ...row.of, unit: code ?? '1' } })}
      />
    {/if}
    of lines that match
  </div>
  <div class="flex" onfocusout={searched}>
    <SearchField
      bind:value={typed}
      {span}
      isFaulty={fault !== null}
      describedBy="fault-of-{row.name}"
      onSearch={searched}
    />
  </div>
  <p id="fault-of-{row.name}" class="fault text-[13px] leading-normal" role="alert">
    {#if problem !== ''}{problem}{:else if fault !== null}{fault.message}
      {#if faulty !== ''}It is at <code class="num border-critical border-b-2">{faulty}</code>.{/if}
      {fault.remedy}{/if}
  </p>
  <div>
    {#each row.where as condition, index (index)}{index === 0 ? 'where ' : 'and '}{spokenCondition(condition)}
      <button
        class="link text-[13px]"
        onclick={() => change({ where: row.where.filter((_, other) => other !== index) })}>remove</button
      >,
    {/each}
    apart by
    <ValueChooser
      label="fields to tell lines apart by"
      values={fields}
      distinct={fields.length}
      chosen={row.by}
      onChange={(by: string[]) => change({ by: by.slice(0, 3) })}
      none="nothing: all together"
    />, with
    <PatternPart
      name={row.name}
      search={fault === null ? row.lines : null}
      {span}
      pattern={row.pattern}
      onChange={(pattern: LinePattern | undefined) => change({ pattern })}
    />
  </div>
</div>
