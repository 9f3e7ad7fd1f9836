<script lang="ts">
  import { mostWindowCells, withClearing, type Rule } from '$lib/core/alarm';
  import { durationFromText, spokenDuration } from '$lib/core/time';

  interface Props {
    /** The rule, whose windows are changed. */
    rule: Rule;
    /** The length of a cell, as ISO 8601. */
    step: string;
    onStep: (step: string) => void;
  }
  let { rule = $bindable(), step, onStep }: Props = $props();
  const steps = ['PT1M', 'PT5M', 'PT15M', 'PT1H'];

  /** Of the two numbers of the window, the one that was typed counts: the other one follows it. */
  function chooseOf(of: number): void {
    rule.window = { of, needs: Math.min(rule.window.needs, of) };
  }
  function chooseNeeds(needs: number): void {
    rule.window = { needs, of: Math.max(rule.window.of, needs) };
  }
</script>

{#snippet count(label: string, value: number, choose: (value: number) => void, width = 'w-[4ch]')}
  <input
    class={['part text-center', width]}
    type="number"
    min="1"
    max={mostWindowCells}
    required
    aria-label={label}
    {value}
    onchange={(event) => choose(event.currentTarget.valueAsNumber)}
  />
{/snippet}

in
<span class="whitespace-nowrap">
  {@render count('Windows needed', rule.window.needs, chooseNeeds)}
  of the last
  {@render count('Windows looked at', rule.window.of, chooseOf)}
</span>
windows of
<span class="whitespace-nowrap"
  ><select
    class="part"
    aria-label="Length of a window"
    value={step}
    onchange={(event) => onStep(event.currentTarget.value)}
    >{#each [...new Set([...steps, step])] as text (text)}<option value={text}
        >{spokenDuration(durationFromText(text))}</option
      >{/each}</select
  >.</span
>
{#if rule.clearing}
  Clear when
  <span class="whitespace-nowrap"
    >{@render count(
      'Windows that must be well',
      rule.clearing.needs,
      (needs) => (rule = withClearing(rule, needs)),
      'w-[5ch]'
    )} windows in a row are well.</span
  >
{/if}
When data are missing,
<span class="whitespace-nowrap"
  ><select class="part" aria-label="When data are missing" bind:value={rule.whenMissing}
    ><option value="indeterminate">say it is indeterminate</option><option value="keep">keep the state</option><option
      value="meets">count them as meeting it</option
    ><option value="does not meet">count them as not meeting it</option></select
  >.</span
>
