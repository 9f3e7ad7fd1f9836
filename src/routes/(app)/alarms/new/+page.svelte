<script lang="ts">
  import AlarmEditor from '$lib/ui/alarm/AlarmEditor.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<svelte:head><title>New alarm · Bussola</title></svelte:head>
<AlarmEditor
  form={data.form}
  choices={data.choices}
  save="Switch on"
  note={data.from ? `new alarm, made from ${data.from}` : 'new alarm'}
/>
