<script lang="ts">
  import UsedBy from './UsedBy.svelte';

  interface Props {
    /** What the button says. */
    label: string;
    /** What is asked before it is done. */
    question: string;
    /** What is to go, where it is asked what uses it. */
    things?: readonly { readonly kind: string; readonly id: number }[];
    disabled?: boolean;
    onConfirm: () => void;
  }
  let { label, question, things = [], disabled = false, onConfirm }: Props = $props();
  let isAsked = $state(false);
</script>

{#if isAsked}<span role="alert">{question}</span>
  {#if things.length > 0}<UsedBy {things} />{/if}
  <button type="button" class="btn" {disabled} onclick={onConfirm}>{label}</button>
  <button type="button" class="btn" onclick={() => (isAsked = false)}>Cancel</button>
{:else}<button type="button" class="btn" onclick={() => (isAsked = true)}>{label}…</button>{/if}
