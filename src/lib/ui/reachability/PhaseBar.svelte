<script lang="ts">
  import { phases, phaseWords, type Attempt } from '$lib/core/reachability';
  import { timeWords } from './words';

  /** Where the time of an attempt went, as one bar. */
  let { attempt, width = 120 }: { attempt: Pick<Attempt, 'phases' | 'took'>; width?: number } = $props();
  const parts = $derived.by(() => {
    let x = 0;
    return phases.flatMap((phase, index) => {
      const ms = attempt.phases[phase];
      if (ms === undefined) return [];
      const wide = (ms / Math.max(attempt.took, 0.001)) * width;
      const part = { phase, hue: index + 1, x, wide };
      x += wide;
      return [part];
    });
  });
  const words = $derived(
    phases
      .flatMap((phase) => {
        const ms = attempt.phases[phase];
        return ms === undefined ? [] : [`${phaseWords[phase]} ${timeWords(ms)}`];
      })
      .join(', ')
  );
</script>

<svg {width} height="8" role="img" aria-label={words} class="inline-block align-middle"
  ><title>{words}</title>
  {#each parts as { phase, hue, x, wide } (phase)}<rect
      {x}
      y="0"
      width={Math.max(0.5, wide - 0.5)}
      height="8"
      fill="var(--hue-{hue})"
    />{/each}</svg
>
