<script lang="ts">
  import type { PageRule } from '$lib/core/targets';
  import PageRuleParts from './PageRuleParts.svelte';

  interface Props {
    rules: PageRule[];
    disabled: boolean;
  }
  let { rules = $bindable(), disabled }: Props = $props();
  const kinds: readonly (readonly [string, PageRule])[] = [
    ['Leave out series', { does: 'leave out', label: null, is: 'like', pattern: '' }],
    ['Rename metrics', { does: 'rename metric', pattern: '', to: '' }],
    ['Rename a label', { does: 'rename label', label: '', to: '' }],
    ['Leave out a label', { does: 'leave out label', label: '' }],
    ['Add a label', { does: 'add label', label: '', value: '' }]
  ];

  function move(index: number, by: number): void {
    const moved = [...rules];
    const [rule] = moved.splice(index, 1);
    if (rule !== undefined) moved.splice(index + by, 0, rule);
    rules = moved;
  }
</script>

<section aria-label="Rules">
  <h3 class="mb-1">What becomes of their series</h3>
  {#if rules.length === 0}<p class="text-quiet">They are stored as they are. Add a rule to leave out or rename some.</p>
  {:else}
    <ol class="flex flex-col gap-1.5">
      {#each rules as rule, index (index)}
        <li class="sentence flex items-baseline gap-2 text-[15px]!">
          <span class="text-quiet num w-5 shrink-0">{index + 1}</span>
          <span class="min-w-0 flex-1"
            ><PageRuleParts {rule} {disabled} onChange={(changed: PageRule) => (rules[index] = changed)} /></span
          >
          {#if !disabled}
            <button
              type="button"
              class="link"
              disabled={index === 0}
              aria-label="Move rule {index + 1} up"
              onclick={() => move(index, -1)}>up</button
            >
            <button
              type="button"
              class="link"
              aria-label="Remove rule {index + 1}"
              onclick={() => (rules = rules.filter((_one, at) => at !== index))}>remove</button
            >
          {/if}
        </li>
      {/each}
    </ol>
  {/if}
  {#if !disabled}
    <div class="mt-2 flex flex-wrap gap-2">
      {#each kinds as [words, rule] (words)}
        <button type="button" class="btn" onclick={() => (rules = [...rules, structuredClone(rule)])}>{words}</button>
      {/each}
    </div>
  {/if}
</section>
