<script lang="ts">
  import { Popover } from '@skeletonlabs/skeleton-svelte';
  import { conversion, quantityText, unit } from '$lib/core/units';
  import { alike, findUnits, type FoundUnit } from '$lib/core/units/find';

  interface Props {
    /** What the choice is for, to those who do not see it. */
    label: string;
    /** The code that is chosen; undefined for none of its own. */
    value: string | undefined;
    /** The unit the numbers are in; null while it is not known. */
    from: string | null;
    /** One of the numbers, in that unit, as an example. */
    example?: number | null;
    /** What it says when no unit is chosen. */
    none: string;
    /** Whether only units that the numbers can be shown in may be chosen. */
    fitting?: boolean;
    onChoose: (code: string | undefined) => void;
  }
  let { label, value, from, example = null, none, fitting = true, onChoose }: Props = $props();
  let isOpen = $state(false);
  let text = $state('');
  const found = $derived.by((): FoundUnit[] => {
    if (text.trim() !== '') return findUnits(text, from);
    return from === null ? [] : alike(from);
  });
  const named = (code: string) => (code === '1' ? 'plain numbers' : unit(code).text);

  /** What the example would be in another unit. */
  function shownIn(code: string): string {
    if (from === null || example === null || !Number.isFinite(example)) return '';
    const converted = conversion(from, code);
    return converted.kind === 'unit' ? quantityText(example * converted.scale + converted.offset, code) : '';
  }
  function choose(code: string | undefined): void {
    onChoose(code);
    isOpen = false;
  }
  function onKey(event: KeyboardEvent): void {
    const first = found.find(({ fits }) => fits || !fitting);
    if (event.key !== 'Enter' || !first) return;
    choose(first.code);
    event.preventDefault();
  }
</script>

<Popover
  open={isOpen}
  onOpenChange={(details: { open: boolean }) => ((isOpen = details.open), (text = ''))}
  positioning={{ placement: 'bottom-start' }}
>
  <Popover.Trigger class="part" aria-label="{label}: {value === undefined ? none : named(value)}"
    >{value === undefined ? none : named(value)}</Popover.Trigger
  >
  <Popover.Positioner class="z-30!">
    <Popover.Content class="panel w-[300px] p-2! text-[13px] shadow-none">
      {#if isOpen}
        <input
          class="field mb-1 text-[13px]!"
          placeholder="Name, symbol or UCUM code"
          aria-label="Find a unit"
          bind:value={text}
          onkeydown={onKey}
        />
        <ul class="max-h-[260px] overflow-y-auto">
          {#if value !== undefined}
            <li>
              <button class="hover:bg-shallow w-full px-1 py-0.5 text-left" onclick={() => choose(undefined)}
                >{none}</button
              >
            </li>
          {/if}
          {#each found as { code, name, fits } (code)}
            <li>
              <button
                class="hover:bg-shallow flex w-full items-baseline gap-2 px-1 py-0.5 text-left disabled:opacity-60"
                disabled={fitting && !fits}
                title={fitting && !fits ? `The numbers do not measure the same as ${name}.` : code}
                onclick={() => choose(code)}
              >
                <b class="min-w-[52px]">{code === '1' ? '1' : unit(code).text}</b>
                <span class="text-quiet min-w-0 flex-1 truncate">{code === '1' ? 'plain numbers' : name}</span>
                {#if fitting}<span class="num text-quiet whitespace-nowrap">{shownIn(code)}</span>{/if}
              </button>
            </li>
          {:else}
            <li class="text-quiet px-1 py-0.5">
              {text.trim() === ''
                ? 'Type a part of a name, such as celsius or byte.'
                : 'No unit of UCUM has this name or code.'}
            </li>
          {/each}
        </ul>
      {/if}
    </Popover.Content>
  </Popover.Positioner>
</Popover>
