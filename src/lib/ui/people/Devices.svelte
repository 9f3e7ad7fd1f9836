<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { onMount } from 'svelte';
  import { callApi, wordsOf } from '../api';
  import { deviceName, subscribeThisDevice, whyNoNotifications } from './this-device';

  interface Props {
    devices: readonly { readonly id: number; readonly name: string; readonly isConfirmed: boolean }[];
  }
  let { devices }: Props = $props();
  let name = $state('');
  let why = $state<string | null>(null);
  let problem = $state('');
  let says = $state('');
  let isBusy = $state(false);
  onMount(() => {
    why = whyNoNotifications();
    name = deviceName(navigator.userAgent);
  });

  async function add(): Promise<void> {
    [isBusy, problem, says] = [true, '', ''];
    try {
      const key = await callApi<{ publicKey: string }>('GET', '/me/devices/key');
      if (key.kind !== 'answered') throw new Error(key.kind === 'refused' ? wordsOf(key.problem) : '');
      const subscription = await subscribeThisDevice(key.answer.publicKey);
      const reply = await callApi('POST', '/me/devices', { body: { name, subscription } });
      if (reply.kind === 'refused') problem = wordsOf(reply.problem);
      else says = 'This device is added. Routes that notify you by push notification reach it; send a test to see one.';
      await invalidate('bussola:overview');
    } catch (error) {
      problem = error instanceof Error ? error.message : String(error);
    }
    isBusy = false;
  }
  async function call(method: 'POST' | 'DELETE', path: string, done: string): Promise<void> {
    const reply = await callApi(method, path);
    problem = reply.kind === 'refused' ? wordsOf(reply.problem) : '';
    says = reply.kind === 'refused' ? '' : done;
    await invalidate('bussola:overview');
  }
</script>

<section class="panel gap-3" aria-label="Devices">
  <h2>Devices</h2>
  <p class="text-quiet text-[13px]">
    Browsers of yours that show notifications, also while no page of Bussola is open.
  </p>
  {#each devices as { id, name: called, isConfirmed } (id)}
    <p class="border-line flex flex-wrap items-center gap-2 border-b pb-1 text-[13px] last:border-0">
      <span class="min-w-0 flex-1"
        >{called}{#if !isConfirmed}<span class="text-major"
            >, takes notifications no longer: add it anew on the device</span
          >{/if}</span
      >
      {#if isConfirmed}<button
          class="btn"
          onclick={() => void call('POST', `/me/devices/${id}/test`, 'The test is being sent.')}>Send test</button
        >{/if}
      <button class="btn" onclick={() => void call('DELETE', `/me/devices/${id}`, `${called} is removed.`)}
        >Remove</button
      >
    </p>
  {:else}<p class="text-[13px]">None yet.</p>{/each}
  {#if why !== null}<p class="text-quiet text-[13px]">{why}</p>
  {:else}
    <form
      class="flex flex-wrap items-center gap-2 text-[13px]"
      onsubmit={(event) => {
        event.preventDefault();
        void add();
      }}
    >
      <input class="field w-[160px]!" aria-label="Name of this device" maxlength="40" required bind:value={name} />
      <button class="btn btn-main" disabled={isBusy || name.trim() === ''}>Notify this device</button>
    </form>
  {/if}
  {#if says}<p class="text-ok text-[13px]" role="status">{says}</p>{/if}
  {#if problem}<p class="fault text-[13px]" role="alert">{problem}</p>{/if}
</section>
