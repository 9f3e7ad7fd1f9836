<script lang="ts">
  import { Popover } from '@skeletonlabs/skeleton-svelte';
  import type { Picker } from '$lib/core/board';
  import NotRead from './NotRead.svelte';
  import type { PickerValues } from './picker-values';

  interface Props {
    picker: Picker;
    chosen: readonly string[];
    /** Null until they are read. */
    values: PickerValues | null;
    /** Whether they could not be read. */
    isLost: boolean;
    onOpen: () => void;
    onChoose: (values: string[]) => void;
  }
  let { picker, chosen, values, isLost, onOpen, onChoose }: Props = $props();
  let text = $state('');
  let isOpen = $state(false);
  const listed = $derived([
    ...chosen
      .filter((value) => values !== null && !values.values.some((one) => one.value === value))
      .map((value) => ({ value, count: 0 })),
    ...(values?.values ?? [])
  ]);
  const found = $derived(listed.filter(({ value }) => value.toLowerCase().includes(text.trim().toLowerCase())));
  const typed = $derived(
    text.trim() !== '' &&
      values !== null &&
      values.distinct > values.values.length &&
      !listed.some(({ value }) => value === text.trim())
      ? text.trim()
      : null
  );
  const words = $derived(
    chosen.length === 0 ? 'all' : chosen.length > 3 ? `${chosen.length} of them` : chosen.join(', ')
  );

  function toggle(value: string): void {
    if (!picker.several) {
      onChoose(chosen.includes(value) ? [] : [value]);
      isOpen = false;
      return;
    }
    onChoose(chosen.includes(value) ? chosen.filter((one) => one !== value) : [...chosen, value]);
  }

  function opened(details: { open: boolean }): void {
    isOpen = details.open;
    text = '';
    isAwaited = false;
    if (isOpen) onOpen();
  }

  /** Whether Enter was pressed before the values were there: then it chooses as soon as they are. */
  let isAwaited = $state(false);
  $effect(() => {
    if (!isAwaited || values === null) return;
    isAwaited = false;
    if (found[0]) toggle(found[0].value);
  });

  function onKey(event: KeyboardEvent): void {
    if (event.key !== 'Enter') return;
    if (values === null) isAwaited = true;
    else if (found[0]) toggle(found[0].value);
    event.preventDefault();
  }
</script>

<Popover open={isOpen} onOpenChange={opened} positioning={{ placement: 'bottom-start' }}>
  <Popover.Trigger
    class="border-strong bg-panel inline-flex max-w-[340px] overflow-hidden rounded-[3px] border text-[13px]"
    aria-label="{picker.title}: {words}"
  >
    <span class="text-quiet border-line border-r px-2 py-1">{picker.title}</span>
    <span class="truncate px-2 py-1 font-semibold">{words}</span>
  </Popover.Trigger>
  <Popover.Positioner class="z-30!">
    <Popover.Content class="panel w-[280px] p-2! text-[13px] shadow-none">
      {#if isOpen}
        <input
          class="field mb-1 text-[13px]!"
          placeholder="Find among {values?.distinct ?? '…'}"
          aria-label="Find a value of {picker.title}"
          bind:value={text}
          onkeydown={onKey}
        />
        {#if chosen.length > 0}
          <button class="link px-1 py-0.5 text-left" onclick={() => onChoose([])}>Choose all</button>
        {/if}
        <ul class="max-h-[260px] overflow-y-auto">
          {#each found as { value, count } (value)}
            <li>
              <label class="flex items-center gap-2 px-1 py-0.5">
                <input
                  type={picker.several ? 'checkbox' : 'radio'}
                  checked={chosen.includes(value)}
                  onchange={() => toggle(value)}
                />
                <span class="break-all">{value}</span>
                <span class="num text-quiet ml-auto">{count}</span>
              </label>
            </li>
          {/each}
          {#if typed !== null}
            <li><button class="link px-1 py-0.5" onclick={() => toggle(typed)}>Use “{typed}”</button></li>
          {:else if isLost}
            <NotRead what="values" onAgain={onOpen} />
          {:else if values === null}
            <li class="text-quiet px-1 py-0.5">Reading…</li>
          {:else if found.length === 0}
            <li class="text-quiet px-1 py-0.5">No value is like this.</li>
          {/if}
        </ul>
      {/if}
    </Popover.Content>
  </Popover.Positioner>
</Popover>
