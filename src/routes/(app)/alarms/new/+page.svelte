<script lang="ts">
  import { page } from '$app/state';
  import AlarmEditor from '$lib/ui/alarm/AlarmEditor.svelte';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<svelte:head><title>New alarm · Bussola</title></svelte:head>
{#snippet extra()}
  {#if !data.form.data.combines}<p class="text-[13px]">
      <a class="link" href={withRange('/alarms/new?combine=')}
        >Combine alarms, or conditions on several signals, instead</a
      >
    </p>{/if}
{/snippet}
{#key page.url.search}<AlarmEditor
    form={data.form}
    choices={data.choices}
    save="Switch on"
    note={data.from ? `new alarm, made from ${data.from}` : 'new alarm'}
    {extra}
  />{/key}
