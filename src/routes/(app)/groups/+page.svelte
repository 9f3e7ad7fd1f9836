<script lang="ts">
  import { useLive } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit } = useReader();
</script>

<svelte:head><title>Groups · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex items-center gap-3">
    <h1>
      {data.groups.length === 0
        ? 'No groups yet'
        : data.groups.length === 1
          ? '1 group'
          : `${data.groups.length} groups`}
    </h1>
    {#if mayEdit}<a class="btn btn-main ml-auto" href={withRange('/groups/new')}>Make a group</a>{/if}
  </div>
  {#if data.groups.length === 0}
    <div class="panel items-start gap-2 p-6!">
      <h2>A group gathers resources by a rule, across accounts and services.</h2>
      <p class="text-quiet">
        Resources discovered later that match the rule join it automatically. Every pick of a signal can be narrowed to
        a group.
      </p>
    </div>
  {:else}
    <section class="panel" aria-label="Groups">
      <table class="rows">
        <thead><tr><th>Name</th><th>Rule</th><th class="right">Resources now</th><th>Changed</th></tr></thead>
        <tbody>
          {#each data.groups as { id, name, sentence, members, changedAt, changedBy } (id)}
            <tr>
              <td class="whitespace-nowrap"><a class="link" href={withRange(`/groups/${id}`)}>{name}</a></td>
              <td>{sentence}</td>
              <td class={['num right', members === 0 && 'fault']}>{members}</td>
              <td class="text-quiet whitespace-nowrap"><Moment at={changedAt} now={live.now} /> by {changedBy}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    </section>
  {/if}
</main>
