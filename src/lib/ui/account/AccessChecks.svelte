<script lang="ts">
  /** The lines of an account's test, in the order they were tried. */
  let { checks }: { checks: readonly { name: string; passed: boolean; says: string; remedy: string | null }[] } =
    $props();
</script>

<ul class="text-[13px]" aria-live="polite">
  {#each checks as { name, passed, says, remedy } (name)}
    <li class="flex gap-2.5 py-1" data-check={name} data-passed={passed}>
      <b class={['w-3 shrink-0', passed ? 'text-ok' : 'text-major']} aria-label={passed ? 'passed' : 'failed'}
        >{passed ? '✓' : '!'}</b
      >
      <span
        >{#if passed}{says}{:else}<b>{says}</b> {remedy}{/if}</span
      >
    </li>
  {/each}
</ul>
