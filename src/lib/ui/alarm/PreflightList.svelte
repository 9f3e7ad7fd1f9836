<script lang="ts">
  import type { AlarmDefinition, Fix, PreflightCheck } from '$lib/core/alarm';

  interface Props {
    checks: readonly PreflightCheck[];
    /** The address of a page where something is fixed. */
    addressOf: (open: Extract<Fix, { open: unknown }>['open']) => string;
    /** Takes the alarm as a fix makes it; none for those who may not change it. */
    onFix?: ((alarm: AlarmDefinition) => void) | undefined;
    /** Takes the last fix back; none when there is nothing to take back. */
    onUndo?: (() => void) | undefined;
  }
  let { checks, addressOf, onFix, onUndo }: Props = $props();
  const amiss = $derived(checks.filter(({ passed }) => !passed).length);
</script>

<section class="panel" aria-label="Preflight">
  <header>
    <h2>Preflight</h2>
    <small>{amiss === 0 ? 'nothing to fix' : `${amiss} to look at`}</small>
    {#if onUndo}<button type="button" class="link ml-auto text-[13px]" onclick={onUndo}>Undo the fix</button>{/if}
  </header>
  <ul class="text-[13px]">
    {#each checks as { id, passed, says, fix }, index (`${id}/${index}`)}
      <li class="border-line flex gap-2.5 border-b py-1.5 last:border-0" data-preflight={id} data-passed={passed}>
        <b class={['w-3 shrink-0', passed ? 'text-ok' : 'text-major']}>{passed ? '✓' : '!'}</b>
        <span class="min-w-0"
          ><span class={passed ? '' : 'font-semibold'}>{says}</span>
          {#if fix && 'open' in fix}<a class="link" href={addressOf(fix.open)}>{fix.says}</a>
          {:else if fix && onFix}<button type="button" class="link text-left" onclick={() => onFix(fix.alarm)}
              >{fix.says}</button
            >{/if}</span
        >
      </li>
    {/each}
  </ul>
</section>
