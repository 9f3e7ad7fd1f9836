<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { expressionProblem, type LabelCondition } from '$lib/core/signal';
  import type { MatchedPick } from './matched.svelte';
  import ValueChooser from './ValueChooser.svelte';

  interface Props {
    condition: LabelCondition;
    labels: MatchedPick['labels'];
    /** Whether it is the one that leaves no series. */
    empties: boolean;
    onChange: (condition: LabelCondition) => void;
    onRemove: () => void;
  }
  let { condition, labels, empties, onChange, onRemove }: Props = $props();
  const ways = { is: 'is', isNot: 'is not', matches: 'matches', matchesNot: 'does not match' } as const;
  type Way = keyof typeof ways;
  const way = $derived((Object.keys(ways) as Way[]).find((one) => one in condition) ?? 'is');
  const own = $derived(labels.find(({ name }) => name === condition.label));
  const chosen = $derived('is' in condition ? condition.is : 'isNot' in condition ? condition.isNot : []);
  const expression = $derived(
    'matches' in condition ? condition.matches : 'matchesNot' in condition ? condition.matchesNot : ''
  );
  let typed = $state<string | null>(null);
  const problem = $derived(typed === null || typed === '' ? null : expressionProblem(typed));

  function change(label: string, to: Way, values: readonly string[], text: string): void {
    if (to === 'is' || to === 'isNot') {
      const some =
        values.length > 0 ? [...values] : [labels.find(({ name }) => name === label)?.values[0]?.value ?? '?'];
      onChange(to === 'is' ? { label, is: some } : { label, isNot: some });
    } else {
      const usable = text !== '' ? text : '.';
      onChange(to === 'matches' ? { label, matches: usable } : { label, matchesNot: usable });
    }
  }

  /** What is on screen, where it can be used; otherwise what was used last. */
  const usableText = (): string =>
    typed !== null && typed !== '' && expressionProblem(typed) === null ? typed : expression;

  function type(text: string): void {
    typed = text;
    if (text !== '' && expressionProblem(text) === null) change(condition.label, way, [], text);
  }
</script>

<span>
  <select
    class="part"
    aria-label="Label"
    value={condition.label}
    onchange={(event) => {
      typed = null;
      change(event.currentTarget.value, 'is', [], '');
    }}
  >
    {#each [...new Set([condition.label, ...labels.map(({ name }) => name)])] as name (name)}<option>{name}</option
      >{/each}
  </select>
  <select
    class="part"
    aria-label="How {condition.label} is compared"
    value={way}
    onchange={(event) => change(condition.label, event.currentTarget.value as Way, chosen, usableText())}
  >
    {#each Object.entries(ways) as [key, words] (key)}<option value={key}>{words}</option>{/each}
  </select>
  {#if way === 'is' || way === 'isNot'}
    <ValueChooser
      label={condition.label}
      values={own?.values ?? []}
      distinct={own?.distinct ?? 0}
      {chosen}
      onChange={(values: string[]) => values.length > 0 && change(condition.label, way, values, '')}
    />
  {:else}
    <input
      class={['part font-mono', problem !== null && 'border-major!']}
      aria-label="Expression for {condition.label}"
      aria-invalid={problem !== null}
      title={problem}
      value={typed ?? expression}
      oninput={(event) => type(event.currentTarget.value)}
    />
  {/if}
  {#if empties}<span class="fault text-[12px]" title="No series is left after this condition">leaves none</span>{/if}
  <button class="text-quiet align-middle" aria-label="Take the condition on {condition.label} away" onclick={onRemove}
    ><X size={13} /></button
  >
</span>
{#if problem !== null}<span class="fault text-[12px]" role="alert">{problem}</span>{/if}
