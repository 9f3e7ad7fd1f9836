<script lang="ts">
  import { onMount } from 'svelte';
  import type { AlarmDefinition } from '$lib/core/alarm';

  interface Props {
    alarm: Pick<AlarmDefinition, 'about' | 'runbook' | 'owner' | 'labels'>;
  }
  let { alarm }: Props = $props();
  /** What turns text into clean HTML; loaded where it is used, so that it is part of no other page. */
  let clean = $state.raw<((text: string, href: (path: string) => string) => string) | null>(null);
  onMount(async () => {
    clean = (await import('../board/panel/clean-text')).cleanText;
  });
  const labels = $derived(
    Object.entries(alarm.labels).map(([name, value]) => (value === '' ? name : `${name} ${value}`))
  );
  const isEmpty = $derived(alarm.about === '' && alarm.runbook === '' && alarm.owner === '' && labels.length === 0);
</script>

{#if !isEmpty}
  <section class="panel" aria-label="What to do">
    <header>
      <h2>What to do</h2>
      <small>{[...(alarm.owner === '' ? [] : [`owned by ${alarm.owner}`]), ...labels].join(', ')}</small>
    </header>
    {#if alarm.about !== ''}
      <div class="prose-board text-[13.5px]">
        <!-- eslint-disable-next-line svelte/no-at-html-tags (cleaned just there, and tested with hostile text) -->
        {#if clean}{@html clean(alarm.about, (path) => path)}{:else}<p class="whitespace-pre-wrap">
            {alarm.about}
          </p>{/if}
      </div>
    {/if}
    {#if alarm.runbook !== ''}<p class="mt-1">
        <a class="link" href={alarm.runbook} rel="noopener noreferrer external" target="_blank">Open the runbook</a>
      </p>{/if}
  </section>
{/if}
