<script lang="ts">
  import Copy from '@lucide/svelte/icons/copy';
  import X from '@lucide/svelte/icons/x';
  import { Popover } from '@skeletonlabs/skeleton-svelte';
  import { page } from '$app/state';
  import { choicesFrom, duplicatePicker, freePickerName, mostPickers, signalsOf, type Picker } from '$lib/core/board';
  import { picksOf } from '$lib/core/signal';
  import type { BoardEditor } from '../edit/editor.svelte';
  import NotRead from './NotRead.svelte';
  import { offeredLabels, type OfferedLabel } from './picker-values';

  let { editor }: { editor: BoardEditor } = $props();
  let isOpen = $state(false);
  /** Labels that the metrics of the board have. */
  let found = $state.raw<readonly OfferedLabel[] | null>(null);
  let isLost = $state(false);
  const board = $derived(editor.board);
  const metrics = $derived([
    ...new Set(board.panels.flatMap(signalsOf).flatMap((signal) => picksOf(signal).map(({ metric }) => metric)))
  ]);
  const titles: Readonly<Record<string, string>> = {
    account: 'Account',
    provider: 'Provider',
    region: 'Region',
    service: 'Service',
    type: 'Type',
    resource: 'Resource',
    group: 'Group'
  };
  const titleOf = (label: string) =>
    titles[label] ?? label.replace(/^tag\./, '').replace(/^./, (first) => first.toUpperCase());

  async function read(): Promise<void> {
    isLost = false;
    const offered = await offeredLabels(metrics);
    if (offered === null) isLost = true;
    else found = offered;
  }

  function add(label: string, metric: string | undefined): void {
    const picker: Picker = {
      name: freePickerName(
        label,
        board.pickers.map(({ name }) => name)
      ),
      title: titleOf(label).slice(0, 60),
      label,
      several: true,
      usual: [],
      ...(metric === undefined ? {} : { metric })
    };
    editor.change({ ...board, pickers: [...board.pickers, picker] });
    isOpen = false;
  }

  const changed = (name: string, to: Partial<Picker>) =>
    editor.change({
      ...board,
      pickers: board.pickers.map((picker) => (picker.name === name ? { ...picker, ...to } : picker))
    });

  function opened(details: { open: boolean }): void {
    isOpen = details.open;
    if (isOpen) void read();
  }
  const usualWords = (usual: readonly string[]) => (usual.length === 0 ? 'all' : usual.join(', '));
  const chosenNow = (name: string) => choicesFrom(page.url.searchParams, board.pickers)[name] ?? [];
</script>

<Popover open={isOpen} onOpenChange={opened} positioning={{ placement: 'bottom-start' }}>
  <Popover.Trigger class="btn">Pickers …</Popover.Trigger>
  <Popover.Positioner class="z-30!">
    <Popover.Content class="panel w-[340px] p-2! text-[13px] shadow-none">
      {#each board.pickers as picker (picker.name)}
        <div class="border-line flex flex-wrap items-center gap-x-2 gap-y-1 border-b pb-1.5">
          <input
            class="field w-[110px]! py-0! text-[13px]!"
            aria-label="Title of the picker"
            maxlength="60"
            value={picker.title}
            onchange={(event) => changed(picker.name, { title: event.currentTarget.value })}
          />
          <label
            ><input
              type="checkbox"
              checked={picker.several}
              onchange={(event) => changed(picker.name, { several: event.currentTarget.checked })}
            /> several</label
          >
          <button
            class="text-quiet ml-auto"
            aria-label="Duplicate the picker {picker.title}"
            title="Duplicate: panels choose which of the two they follow"
            disabled={board.pickers.length >= mostPickers}
            onclick={() => {
              const pickers = duplicatePicker(board.pickers, picker.name);
              if (pickers) editor.change({ ...board, pickers });
            }}><Copy size={13} /></button
          >
          <button
            class="text-quiet"
            aria-label="Remove the picker {picker.title}"
            onclick={() =>
              editor.change({ ...board, pickers: board.pickers.filter(({ name }) => name !== picker.name) })}
            ><X size={13} /></button
          >
          <span class="text-quiet w-full text-[12px]"
            >starts with {usualWords(picker.usual)}.
            <button class="link" onclick={() => changed(picker.name, { usual: [...chosenNow(picker.name)] })}
              >Use the current choice as default</button
            ></span
          >
        </div>
      {/each}
      <p class="mt-1 font-semibold">Choose by another label</p>
      <ul class="max-h-[220px] overflow-y-auto">
        {#each (found ?? []).filter(({ label }) => !board.pickers.some((picker) => picker.label === label)) as { label, metric, values } (label)}
          <li>
            <button class="hover:bg-shallow flex w-full gap-2 px-1 py-0.5 text-left" onclick={() => add(label, metric)}
              >{titleOf(label)}<span class="text-quiet ml-auto">{values}</span></button
            >
          </li>
        {:else}
          {#if isLost}
            <NotRead what="labels" onAgain={() => void read()} />
          {:else}
            <li class="text-quiet px-1 py-0.5">
              {metrics.length === 0
                ? 'Add panels first: their labels can be chosen here.'
                : found === null
                  ? 'Reading…'
                  : 'No other label is left.'}
            </li>
          {/if}
        {/each}
      </ul>
    </Popover.Content>
  </Popover.Positioner>
</Popover>
