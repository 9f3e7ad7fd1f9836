<script lang="ts">
  import { invalidateAll } from '$app/navigation';
  import { duration, peopleDuration } from '$lib/core/time';
  import { quantityText } from '$lib/core/units';
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  type Kind = keyof typeof data.lists;

  /** From here on somebody who waits notices. */
  const noticedMs = 1000;
  const kinds: readonly (readonly [kind: Kind, title: string, about: string])[] = [
    ['panels', 'Panels', 'of stored boards, however they are seen'],
    ['queries', 'Queries', 'of the bench, of programs, of pages without a stored board'],
    ['pulls', 'Accounts', 'each pull of a service of an account'],
    ['requests', 'Requests', 'pages and operations of the API'],
    ['statements', 'Statements', 'of the database, from the process that answers people']
  ];
  /** The slowest single time of what people wait for. */
  const worst = $derived(
    (['panels', 'queries', 'requests'] as const)
      .flatMap((kind) => data.lists[kind])
      .toSorted((one, other) => other.longest - one.longest)[0]
  );
  const time = (ms: number): string => quantityText(ms / 1000, 's');
  const views = [
    ['total', 'By all times together'],
    ['longest', 'By the longest time']
  ] as const;
</script>

<svelte:head><title>What is slow · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-2 flex flex-wrap items-baseline gap-2">
    <h1>
      {#if worst === undefined || worst.longest < noticedMs}Nobody waited for longer than 1 s{:else}Somebody waited for {time(
          worst.longest
        )}{/if}
    </h1>
    <span class="text-quiet text-[14px]"
      >{#if worst !== undefined && worst.longest >= noticedMs}for {worst.name}, <Moment
          at={worst.longestAt}
          now={live.now}
        />;
      {/if}in this process, {data.remembered < 60_000
        ? 'in the last minute'
        : `in the last ${peopleDuration(duration(Math.round(data.remembered)))}`}</span
    >
    <button class="btn ml-auto" onclick={() => void invalidateAll()}>Look again</button>
  </div>
  <nav class="mb-2 flex flex-wrap gap-1.5 text-[13px]" aria-label="Order">
    {#each views as [by, text] (by)}
      <a
        class={['btn', data.by === by && 'bg-shallow! font-semibold!']}
        aria-current={data.by === by ? 'true' : undefined}
        href={withRange(by === 'total' ? '/slow' : '/slow?by=longest')}>{text}</a
      >
    {/each}
  </nav>
  <div class="flex flex-col gap-2.5">
    {#each kinds as [kind, title, about] (kind)}
      <section class="panel" aria-label={title}>
        <header>
          <h2>{title}</h2>
          <small>{about}</small>
        </header>
        {#if data.lists[kind].length === 0}
          <p class="text-quiet text-[13px]">None yet.</p>
        {:else}
          <div class="overflow-x-auto">
            <table class="rows">
              <thead
                ><tr
                  ><th>What</th><th class="right">Times</th><th class="right">Mean</th><th class="right">Longest</th><th
                    >When</th
                  ><th class="right">Together</th></tr
                ></thead
              >
              <tbody>
                {#each data.lists[kind] as { name, path, times, mean, longest, longestAt, total }, index (index)}
                  <tr>
                    <td class={['min-w-[280px] break-words', kind === 'statements' && 'font-mono text-[12px]']}
                      ><span class="line-clamp-3" title={name}
                        >{#if path !== ''}<a class="link" href={withRange(path)}>{name}</a>{:else}{name}{/if}</span
                      ></td
                    >
                    <td class="num right">{times.toLocaleString('en')}</td>
                    <td class="num right whitespace-nowrap">{time(mean)}</td>
                    <td class={['num right whitespace-nowrap', longest >= noticedMs && 'font-bold']}>{time(longest)}</td
                    >
                    <td class="whitespace-nowrap"><Moment at={longestAt} now={live.now} /></td>
                    <td class="num right whitespace-nowrap">{time(total)}</td>
                  </tr>
                {/each}
              </tbody>
            </table>
          </div>
        {/if}
      </section>
    {/each}
  </div>
</main>
