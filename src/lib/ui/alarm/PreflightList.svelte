<script lang="ts">
  interface Props {
    checks: readonly { id: string; passed: boolean; says: string }[];
  }
  let { checks }: Props = $props();
  const amiss = $derived(checks.filter(({ passed }) => !passed).length);
</script>

<section class="panel" aria-label="Preflight">
  <header>
    <h2>Preflight</h2>
    <small>{amiss === 0 ? 'nothing to fix' : `${amiss} to look at`}</small>
  </header>
  <ul class="text-[13px]">
    {#each checks as { id, passed, says } (id)}
      <li class="border-line flex gap-2.5 border-b py-1.5 last:border-0" data-preflight={id} data-passed={passed}>
        <b class={['w-3 shrink-0', passed ? 'text-ok' : 'text-major']}>{passed ? '✓' : '!'}</b>
        <span class={passed ? '' : 'font-semibold'}
          >{says}
          {#if id === 'confirmed' && !passed}<a class="link" href="/channels">Send again</a>{/if}</span
        >
      </li>
    {/each}
  </ul>
</section>
