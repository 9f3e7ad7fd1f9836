<script lang="ts">
  import { DateTime } from 'luxon';
  import { quantityText } from '$lib/core/units';
  import { useReader } from '../time/reader';
  import { startOfCell, type Picture } from './picture';
  import Swatch from './Swatch.svelte';

  interface Props {
    picture: Picture;
    /** The cell under the pointer. */
    cell: number;
    /** Where the pointer is and how wide the chart, pixels. */
    x: number;
    width: number;
  }
  let { picture, cell, x, width }: Props = $props();
  const { zone } = useReader();
  const most = 9;
  const rows = $derived(
    picture.lines
      .map(({ values, ...line }) => ({ ...line, value: values[cell] ?? NaN }))
      .sort((a, b) => (Number.isNaN(a.value) ? 1 : Number.isNaN(b.value) ? -1 : b.value - a.value))
  );
  const at = $derived(
    DateTime.fromMillis(startOfCell(picture, cell), { zone }).toFormat(
      picture.calendar ? 'ccc d LLL' : 'ccc d LLL HH:mm'
    )
  );
</script>

<div
  class="panel pointer-events-none absolute top-1 z-10 p-1.5! text-[12px]"
  style:left={x < width / 2 ? `${x + 12}px` : undefined}
  style:right={x < width / 2 ? undefined : `${width - x + 12}px`}
  role="status"
>
  <b class="num mb-0.5">{at}</b>
  {#each rows.slice(0, most) as { id, name, hue, dashed, tone, value } (id)}
    <div class="flex items-center gap-2">
      <Swatch {hue} {dashed} {tone} /><span class="mr-3">{name}</span>
      <span class={['num ml-auto', Number.isNaN(value) && 'text-quiet']}
        >{quantityText(value, picture.unit, picture.digits)}</span
      >
    </div>
  {/each}
  {#if rows.length > most}<span class="text-quiet">and {rows.length - most} lower</span>{/if}
</div>
