<script lang="ts">
  import { stepRange } from '$lib/core/time';
  import { useLive } from '../live/live.svelte';
  import { showRange, shownRange, usualShown } from '../time/shown';

  const live = useLive();
  let list: HTMLDialogElement;
  const shortcuts: readonly (readonly [string, string, () => void])[] = [
    ['/', 'Search, or choose an action (also Ctrl+K)', focusSearch],
    ['.', 'Choose the range', () => document.querySelector<HTMLElement>('[data-range-button]')?.click()],
    ['[', 'Step back in time', () => void showRange(stepRange(shownRange(), -1, live.now))],
    [']', 'Step forward in time', () => void showRange(stepRange(shownRange(), 1, live.now))],
    ['=', 'Back to live', () => void showRange(usualShown())],
    ['?', 'Show this list', () => list.showModal()]
  ];

  /** What the page of an incident takes itself; Watch takes the first for the worst of them. */
  const onIncidents = [
    ['a', 'Acknowledge the incident'],
    ['s', 'Shelve the incident'],
    ['n', 'Write a note about the incident']
  ] as const;

  function focusSearch(): void {
    document.querySelector<HTMLElement>('[data-search]')?.focus();
  }

  /** Never in a field, never with a modifier that belongs to the browser. */
  function onKey(event: KeyboardEvent): void {
    if ((event.ctrlKey || event.metaKey) && !event.altKey && !event.shiftKey && event.key.toLowerCase() === 'k') {
      event.preventDefault(); // the browser's own search field
      focusSearch();
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (
      event.target instanceof HTMLElement &&
      event.target.closest('input, textarea, select, [contenteditable="true"], dialog')
    )
      return;
    const shortcut = shortcuts.find(([key]) => key === event.key);
    if (!shortcut) return;
    event.preventDefault();
    shortcut[2]();
  }
</script>

<svelte:window onkeydown={onKey} />
<dialog bind:this={list} class="panel m-auto w-80 p-4! backdrop:bg-black/40" aria-label="Keyboard">
  <h2 class="mb-2">Keyboard</h2>
  <table class="rows">
    <tbody>
      {#each shortcuts as [key, meaning] (key)}<tr><td><kbd>{key}</kbd></td><td>{meaning}</td></tr>{/each}
      {#each onIncidents as [key, meaning] (key)}<tr><td><kbd>{key}</kbd></td><td>{meaning}</td></tr>{/each}
      <tr><td><kbd>Esc</kbd></td><td>Close the margin</td></tr>
    </tbody>
  </table>
  <form method="dialog" class="mt-3"><button class="btn">Close</button></form>
</dialog>
