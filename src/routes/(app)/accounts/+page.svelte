<script lang="ts">
  import ConnectOffer from '$lib/ui/account/ConnectOffer.svelte';
  import RemovedAccounts from '$lib/ui/account/RemovedAccounts.svelte';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  useRefresh(useLive(), ['account'], 'bussola:accounts');
</script>

<svelte:head><title>Accounts · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 px-[18px] py-3.5">
  <h1 class="mb-3">Accounts</h1>
  <div class="panel items-start gap-2 p-6!">
    <h2>No account is connected yet.</h2>
    <p class="text-quiet">
      An account is one credential’s reach at one provider. Make a read-only key there, enter it once, and Bussola tests
      it.
    </p>
    <ConnectOffer isMain />
  </div>
  <RemovedAccounts accounts={data.removed} />
</main>
