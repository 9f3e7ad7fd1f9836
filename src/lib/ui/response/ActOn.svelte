<script lang="ts">
  import { invalidate } from '$app/navigation';
  import ActForm from './ActForm.svelte';

  interface Props {
    resource: { readonly id: number; readonly name: string };
    incidentId?: number | null;
    /** What is read anew once something was done. */
    depends?: string;
  }
  let { resource, incidentId = null, depends = 'bussola:overview' }: Props = $props();
  let isOpen = $state(false);
  let says = $state('');
</script>

{#if isOpen}<div class="my-2 w-full max-w-[760px]">
    <ActForm
      {resource}
      {incidentId}
      onDone={(text: string) => {
        [isOpen, says] = [false, text];
        void invalidate(depends);
      }}
      onCancel={() => (isOpen = false)}
    />
  </div>{:else}<button
    class="btn"
    onclick={() => {
      [isOpen, says] = [true, ''];
    }}>Act on {resource.name}…</button
  >{#if says !== ''}<span class="text-quiet text-[13px]" role="status">{says}</span>{/if}{/if}
