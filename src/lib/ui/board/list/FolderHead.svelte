<script lang="ts">
  import Pencil from '@lucide/svelte/icons/pencil';
  import X from '@lucide/svelte/icons/x';

  interface Props {
    name: string;
    /** How many boards lie in it. */
    boards: number;
    /** Whether people made it and it may be changed; those of services and of favourites are what they are. */
    mayChange: boolean;
    onRename: (name: string) => void;
    onRemove: () => void;
  }
  let { name, boards, mayChange, onRename, onRemove }: Props = $props();
  let isRenaming = $state(false);
  /** Boards are not scattered by one click. */
  let isAsking = $state(false);

  function onKey(event: KeyboardEvent & { currentTarget: HTMLInputElement }): void {
    if (event.key === 'Escape') {
      event.currentTarget.value = name;
      isRenaming = false;
    } else if (event.key === 'Enter') event.currentTarget.blur();
  }
  function renamed(text: string): void {
    isRenaming = false;
    if (text.trim() !== '' && text.trim() !== name) onRename(text.trim());
  }
</script>

<header>
  {#if isRenaming}
    <!-- svelte-ignore a11y_autofocus (the person has just asked to type here) -->
    <input
      class="field max-w-[260px] py-0! text-[14px]!"
      aria-label="Name of the folder"
      maxlength="60"
      value={name}
      autofocus
      onkeydown={onKey}
      onblur={(event) => isRenaming && renamed(event.currentTarget.value)}
    />
  {:else}
    <h2>{name}</h2>
    {#if mayChange}
      <button class="text-quiet self-center" aria-label="Rename the folder {name}" onclick={() => (isRenaming = true)}
        ><Pencil size={13} /></button
      >
      <button
        class="text-quiet self-center"
        aria-label="Remove the folder {name}"
        title={boards === 0 ? 'Remove the empty folder' : 'Remove the folder; its boards stay'}
        onclick={() => (boards === 0 ? onRemove() : (isAsking = true))}><X size={14} /></button
      >
      {#if isAsking}
        <span class="flex flex-wrap items-center gap-1.5 text-[13px]" role="alert"
          >Remove the folder? Its boards stay.
          <button class="btn btn-main" onclick={onRemove}>Remove folder</button>
          <button class="btn" onclick={() => (isAsking = false)}>Cancel</button></span
        >
      {/if}
    {/if}
  {/if}
</header>
