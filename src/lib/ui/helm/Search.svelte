<script lang="ts">
  import { goto } from '$app/navigation';
  import { withRange } from '../time/shown';
  import type { Destination } from './destination';

  let { places }: { places: Destination[] } = $props();
  let text = $state('');
  let chosen = $state(0);
  let open = $state(false);
  let field: HTMLInputElement | undefined;
  /** Entries that are listed. */
  const most = 10;
  const found = $derived.by(() => {
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    return places
      .filter(({ title, kind }) => words.every((word) => `${title} ${kind}`.toLowerCase().includes(word)))
      .slice(0, most);
  });

  /** Puts the cursor into the field. */
  export function focus(): void {
    field?.focus();
    field?.select();
  }

  function go(place: Destination | undefined): void {
    if (!place) return;
    open = false;
    text = '';
    field?.blur();
    if (place.run) place.run();
    else if (place.href !== undefined) void goto(withRange(place.href));
  }

  function onKey(event: KeyboardEvent): void {
    if (event.key === 'ArrowDown') chosen = Math.min(found.length - 1, chosen + 1);
    else if (event.key === 'ArrowUp') chosen = Math.max(0, chosen - 1);
    else if (event.key === 'Enter') go(found[chosen]);
    else if (event.key === 'Escape') field?.blur();
    else return;
    event.preventDefault();
  }
</script>

<div class="relative w-[230px] shrink-0 max-lg:hidden">
  <input
    bind:this={field}
    bind:value={text}
    class="field bg-ground! h-[30px] pr-8! text-[13px]!"
    placeholder="Search or choose an action"
    role="combobox"
    aria-label="Search, or choose an action"
    aria-expanded={open}
    aria-controls="found"
    autocomplete="off"
    data-search
    onfocus={() => ((open = true), (chosen = 0))}
    onblur={() => (open = false)}
    oninput={() => (chosen = 0)}
    onkeydown={onKey}
  />
  <kbd class="absolute top-1.5 right-2">/</kbd>
  {#if open}
    <ul id="found" role="listbox" class="panel absolute z-30 mt-1 w-[320px] p-1!">
      {#each found as place, index (`${place.kind} ${place.title} ${place.href ?? ''}`)}
        <li role="option" aria-selected={index === chosen}>
          <!-- mousedown comes before the field's blur, which would take the list away -->
          <button
            class={['flex w-full gap-2 px-2 py-1 text-left', index === chosen && 'bg-shallow']}
            onmousedown={() => go(place)}
            tabindex="-1"
          >
            <span>{place.title}</span><span class="text-quiet ml-auto text-[12px]">{place.kind}</span>
          </button>
        </li>
      {:else}
        <li class="text-quiet px-2 py-1">Nothing has this name.</li>
      {/each}
    </ul>
  {/if}
</div>
