<script lang="ts">
  import { severityBalls, type Severity } from '$lib/core/alarm';

  interface Props {
    /** The severity raised; null when nothing is. */
    severity: Severity | null;
    /** Whether it is unknown at present. */
    indeterminate?: boolean;
    /** Whether messages about it are held back: a bar under it. */
    shelved?: boolean;
    /** Whether somebody looks after it: a tick beside it. */
    acknowledged?: boolean;
  }
  let { severity, indeterminate = false, shelved = false, acknowledged = false }: Props = $props();
  const words = $derived(
    `${severity ?? (indeterminate ? 'indeterminate' : 'clear')}${shelved ? ', shelved' : ''}${acknowledged ? ', acknowledged' : ''}`
  );
</script>

<span
  class="relative inline-flex w-[10px] flex-col items-center justify-center gap-[1px] align-middle"
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
  {#if shelved}<span class="bg-quiet mt-[1px] h-[2px] w-[10px]"></span>{/if}
  {#if acknowledged}<span class="text-ok absolute -right-[9px] text-[10px] leading-none" aria-hidden="true">✓</span
    >{/if}
</span>
