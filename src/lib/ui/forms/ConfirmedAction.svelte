<script lang="ts">
  import { enhance } from '$app/forms';
  import UsedBy from './UsedBy.svelte';

  interface Props {
    /** The action of the page, such as `?/remove`. */
    action: string;
    /** The thing that it is done to; none for that of the page. */
    id?: number | undefined;
    /** What the button says. */
    label: string;
    /** What is asked before it is done. */
    question: string;
    /** What is to go, where it is asked what uses it. */
    things?: readonly { readonly kind: string; readonly id: number }[];
  }
  let { action, id, label, question, things = [] }: Props = $props();
  let asking = $state(false);
</script>

{#if asking}
  <form class="inline-flex flex-wrap items-center gap-1.5" method="post" {action} use:enhance>
    {#if id !== undefined}<input type="hidden" name="id" value={id} />{/if}
    <span class="text-[13px]" role="alert">{question}</span>
    {#if things.length > 0}<span class="text-[13px]"><UsedBy {things} /></span>{/if}
    <button class="btn btn-main">{label}</button>
    <button type="button" class="btn" onclick={() => (asking = false)}>Cancel</button>
  </form>
{:else}<button type="button" class="btn" onclick={() => (asking = true)}>{label}…</button>{/if}
