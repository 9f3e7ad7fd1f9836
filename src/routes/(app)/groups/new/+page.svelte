<script lang="ts">
  import GroupEditor from '$lib/ui/group/GroupEditor.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<svelte:head><title>Make a group · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <h1 class="mb-3">Make a group</h1>
  <GroupEditor form={data.form} labels={data.labels} save="Make the group" />
</main>
