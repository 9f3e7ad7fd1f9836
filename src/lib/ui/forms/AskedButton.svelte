<script lang="ts">
  interface Props {
    /** What the button says. */
    label: string;
    /** What is asked before it is done. */
    question: string;
    disabled?: boolean;
    onConfirm: () => void;
  }
  let { label, question, disabled = false, onConfirm }: Props = $props();
  let isAsked = $state(false);
</script>

{#if isAsked}<span role="alert">{question}</span>
  <button type="button" class="btn" {disabled} onclick={onConfirm}>{label}</button>
  <button type="button" class="btn" onclick={() => (isAsked = false)}>Cancel</button>
{:else}<button type="button" class="btn" onclick={() => (isAsked = true)}>{label}…</button>{/if}
