<script lang="ts">
  import { severityBalls, type Severity } from '$lib/core/alarm';

  interface Props {
    /** The severity raised; null when nothing is. */
    severity: Severity | null;
    /** Whether it is unknown at present. */
    indeterminate?: boolean;
  }
  let { severity, indeterminate = false }: Props = $props();
  const words = $derived(severity ?? (indeterminate ? 'indeterminate' : 'clear'));
</script>

<span
  class="inline-flex w-[10px] flex-col items-center justify-center gap-[1px] align-middle"
  role="img"
  aria-label={words}
  title={words}
>
  {#if severity !== null}
    {#each { length: severityBalls(severity) } as _, ball (ball)}
      <span class="size-[6px] rounded-full" style:background="var(--{severity})"></span>
    {/each}
  {:else}
    <span class={['size-[9px] rounded-full border-2', indeterminate ? 'border-quiet border-dashed' : 'border-ok']}
    ></span>
  {/if}
</span>
