<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import type { Snippet } from 'svelte';

  interface Props {
    title: string;
    onClose: () => void;
    children: Snippet;
  }
  let { title, onClose, children }: Props = $props();
  const least = 360;
  const most = 480;
  let width = $state(least);
  let grip: { x: number; width: number } | null = null;

  function onGripKey(event: KeyboardEvent): void {
    const by = { ArrowLeft: 16, ArrowRight: -16 }[event.key];
    if (by === undefined) return;
    width = clamp(width + by);
    event.preventDefault();
  }

  const clamp = (wanted: number) => Math.min(most, Math.max(least, wanted));
</script>

<svelte:window onkeydown={(event: KeyboardEvent) => event.key === 'Escape' && onClose()} />
<aside
  class="border-strong bg-panel relative shrink-0 overflow-y-auto border-l p-4 max-md:w-full!"
  style:width="{width}px"
  aria-label={title}
>
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions, a11y_no_noninteractive_tabindex (a focusable separator is a widget) -->
  <div
    class="hover:bg-shallow absolute top-0 left-0 h-full w-1.5 cursor-col-resize touch-none"
    role="separator"
    aria-orientation="vertical"
    aria-label="Width of the margin"
    aria-valuenow={width}
    aria-valuemin={least}
    aria-valuemax={most}
    tabindex="0"
    onpointerdown={(event) => {
      grip = { x: event.clientX, width };
      event.currentTarget.setPointerCapture(event.pointerId);
    }}
    onpointermove={(event) => grip && (width = clamp(grip.width + grip.x - event.clientX))}
    onpointerup={() => (grip = null)}
    onkeydown={onGripKey}
  ></div>
  <header class="mb-3 flex items-center gap-2">
    <h2 class="text-[16px]!">{title}</h2>
    <button class="btn ml-auto px-1.5!" onclick={onClose} aria-label="Close (Esc)" title="Close (Esc)"
      ><X size={14} /></button
    >
  </header>
  {@render children()}
</aside>
