<script lang="ts">
  import ConnectorEditor from '$lib/ui/connector/ConnectorEditor.svelte';
  import { blankConnector } from '$lib/ui/connector/connector-language';

  /** What ships with Bussola, to begin with. */
  const shipped = { grecale: 'Grecale', levante: 'Levante', ostro: 'Ostro' } as const;
  let begin = $state(blankConnector);
  let begun = $state('');
  let problem = $state('');

  async function beginWith(name: string): Promise<void> {
    problem = '';
    if (name !== '') {
      const response = await fetch(`/connectors/${name}.yaml`).catch(() => null);
      if (!response?.ok) {
        problem = 'The example could not be read. Check the connection and choose it again.';
        return;
      }
      begin = await response.text();
    } else begin = blankConnector;
    begun = name;
  }
</script>

<svelte:head><title>Write a connector · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    <h1>Write a connector</h1>
    <label class="ml-auto text-[13px]"
      >Begin with
      <select class="part" onchange={(event) => void beginWith(event.currentTarget.value)}
        ><option value="">the usual parts</option>{#each Object.entries(shipped) as [key, title] (key)}<option
            value={key}>{title}, as an example</option
          >{/each}</select
      ></label
    >
  </div>
  {#if problem !== ''}<p class="fault mb-2 text-[13px]" role="alert">{problem}</p>{/if}
  {#key begun}<ConnectorEditor connector={null} {begin} accounts={[]} />{/key}
</main>
