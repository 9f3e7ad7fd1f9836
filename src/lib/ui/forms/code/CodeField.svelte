<script lang="ts">
  import { onMount } from 'svelte';
  import type { EditorView } from '@codemirror/view';
  import type { CodeLanguage } from './code-editor';

  interface Props {
    /** What it begins with; another text replaces what was written. */
    text: string;
    label: string;
    /** What it knows of its files; read with the editor itself, which is large. */
    language: () => Promise<CodeLanguage>;
    onChange: (text: string) => void;
  }
  let { text, label, language, onChange }: Props = $props();
  let holder: HTMLElement;
  let view = $state.raw<EditorView | null>(null);
  let isGone = false;

  onMount(() => {
    void Promise.all([import('./code-editor'), language()]).then(([{ codeEditor }, known]) => {
      if (!isGone) view = codeEditor(holder, text, { label, language: known, onChange });
    });
    return () => {
      isGone = true;
      view?.destroy();
    };
  });
  $effect(() => {
    if (view && view.state.doc.toString() !== text)
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text } });
  });
</script>

<div class="border-strong bg-panel h-full min-h-[320px] overflow-hidden rounded-[3px] border">
  {#if view === null}<pre class="num p-2 text-[12px]">{text}</pre>{/if}
  <div class="h-full" bind:this={holder}></div>
</div>
