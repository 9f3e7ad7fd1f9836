<script lang="ts">
  import type { Finding, Signal } from '$lib/core/signal';

  interface Props {
    title: string;
    findings: readonly Finding[];
    onMend: (signal: Signal) => void;
  }
  let { title, findings, onMend }: Props = $props();
</script>

{#if findings.length > 0}
  <section class="panel" aria-label={title}>
    <header><h2>{title}</h2></header>
    <ul class="text-[13px]">
      {#each findings as { passed, text, mend } (text)}
        <li class="flex gap-3 py-0.5">
          <span class={['num w-3 shrink-0 font-bold', passed ? 'text-ok' : 'text-minor']} aria-hidden="true"
            >{passed ? '✓' : '!'}</span
          >
          <span>
            {text}
            {#if mend}<button class="link" onclick={() => onMend(mend.signal)}>{mend.text}</button>{/if}
          </span>
        </li>
      {/each}
    </ul>
  </section>
{/if}
