<script lang="ts">
  import type { Instant } from '$lib/core/time';
  import { countOf } from '$lib/core/words/count';
  import { useLive } from '../live/live.svelte';
  import Moment from '../time/Moment.svelte';

  interface Target {
    readonly name: string;
    readonly url: string;
    readonly labels: Readonly<Record<string, string>>;
    readonly isUp: boolean | null;
    readonly since: Instant | null;
    readonly readAt: Instant | null;
    readonly tookMs: number | null;
    readonly samples: number | null;
    readonly leftOut: number | null;
    readonly problem: string | null;
  }
  interface Props {
    targets: readonly Target[];
    /** Resources of the same names, to be opened. */
    resources: Readonly<Record<string, number>>;
  }
  let { targets, resources }: Props = $props();
  const live = useLive();
  /** More are shown on demand only. */
  const shownAtFirst = 100;
  let all = $state(false);
  let search = $state('');
  const found = $derived(
    targets.filter(({ name, labels, problem }) =>
      `${name} ${Object.values(labels).join(' ')} ${problem ?? ''}`.toLowerCase().includes(search.trim().toLowerCase())
    )
  );
  const shown = $derived(all ? found : found.slice(0, shownAtFirst));
  const down = $derived(targets.filter(({ isUp }) => isUp === false).length);
  const waiting = $derived(targets.filter(({ isUp }) => isUp === null).length);
</script>

<section class="panel" aria-label="Pages">
  <header>
    <h2>
      {#if targets.length === 0}No page is listed{:else if down > 0}{down} of {countOf(targets.length, 'page')} cannot be
        read{:else if waiting === targets.length}{countOf(targets.length, 'page')}, not read yet{:else}All {countOf(
          targets.length,
          'page'
        )} can be read{/if}
    </h2>
    {#if targets.length > 10}<input
        class="field ml-auto w-[22ch]!"
        type="search"
        placeholder="Search pages"
        aria-label="Search pages"
        bind:value={search}
      />{/if}
  </header>
  {#if targets.length > 0}
    <div class="overflow-x-auto">
      <table class="rows">
        <thead>
          <tr
            ><th>Page</th><th>State</th><th class="text-right">Answer</th><th class="text-right">Lines</th><th
              >Labels</th
            ></tr
          >
        </thead>
        <tbody>
          {#each shown as one (one.name)}
            <tr>
              <td
                >{#if resources[one.name] !== undefined}<a class="link" href="/resources/{resources[one.name]}"
                    >{one.name}</a
                  >{:else}{one.name}{/if}<span
                  class="text-quiet num block max-w-[36ch] truncate text-[12px]"
                  title={one.url}>{one.url}</span
                ></td
              >
              <td class="text-[13px]"
                >{#if one.isUp === null}<span class="text-quiet">not read yet</span>
                {:else if one.isUp}<span class="whitespace-nowrap"
                    >read {#if one.readAt !== null}<Moment at={one.readAt} now={live.now} />{/if}</span
                  >{#if one.problem !== null}<span class="fault block">! {one.problem}</span>{/if}
                {:else}<span class="whitespace-nowrap"
                    ><b class="fault">! down</b>
                    {#if one.since !== null}since <Moment at={one.since} now={live.now} />{/if}</span
                  ><span class="block">{one.problem}</span>{/if}</td
              >
              <td class="num text-right whitespace-nowrap">{one.tookMs === null ? '' : `${one.tookMs} ms`}</td>
              <td class="num text-right whitespace-nowrap"
                >{one.samples === null ? '' : one.samples.toLocaleString('en')}{#if (one.leftOut ?? 0) > 0}<span
                    class="text-quiet block text-[12px]">{one.leftOut} left out</span
                  >{/if}</td
              >
              <td class="num text-[12.5px]"
                >{Object.entries(one.labels)
                  .map(([label, value]) => `${label}=${value}`)
                  .join(' ')}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    {#if found.length > shown.length}<button class="link mt-1 text-[13px]" onclick={() => (all = true)}
        >Show all {found.length}</button
      >{/if}
  {/if}
</section>
