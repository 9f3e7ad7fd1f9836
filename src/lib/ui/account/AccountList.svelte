<script lang="ts">
  import { duration, peopleDuration, type Instant } from '$lib/core/time';
  import SeverityHoist from '../alarm/SeverityHoist.svelte';
  import { useLive } from '../live/live.svelte';
  import { withRange } from '../time/shown';

  interface Props {
    accounts: readonly {
      id: number;
      name: string;
      providerName: string;
      series: number;
      newestAt: Instant | null;
      failing: number;
      lastError: { code: string } | null;
    }[];
    /** The one that is open; null when none is. */
    selected: number | null;
  }
  let { accounts, selected }: Props = $props();
  const live = useLive();
  const age = (at: Instant) => peopleDuration(duration(Math.max(0, live.now - at)), 1);
  const words: Readonly<Record<string, string>> = {
    permission: 'a right is missing',
    'refused-values': 'values refused'
  };
</script>

<nav class="panel p-0!" aria-label="Accounts">
  {#each accounts as one (one.id)}
    <a
      href={withRange(`/accounts/${one.id}`)}
      aria-current={one.id === selected ? 'page' : undefined}
      class={[
        'border-line flex gap-3 border-b px-3 py-2.5 no-underline',
        one.id === selected && 'bg-shallow shadow-[inset_3px_0_var(--deep)]'
      ]}
    >
      <SeverityHoist severity={null} indeterminate={one.lastError !== null || one.newestAt === null} />
      <span class="min-w-0">
        <b>{one.name}</b>
        <span class="text-quiet block text-[13px]"
          >{one.series} series, {one.newestAt === null ? 'nothing yet' : `newest ${age(one.newestAt)}`}</span
        >
        {#if one.lastError}<span class="fault block text-[13px]">{words[one.lastError.code] ?? one.lastError.code}</span
          >{/if}
      </span>
      <span class="text-quiet ml-auto text-[12px]">{one.providerName}</span>
    </a>
  {/each}
  <a class="block px-3 py-2.5 pl-[34px] no-underline" href="/receive"
    ><span class="link">Keys for other programs</span><span class="text-quiet block text-[13px]">pushes and files</span
    ></a
  >
</nav>
