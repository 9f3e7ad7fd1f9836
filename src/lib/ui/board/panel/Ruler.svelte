<script lang="ts">
  import { digits, displayScale, type Quantity } from '$lib/core/units';

  interface Props {
    value: number;
    scale: { from: number; to: number };
    warning?: number | undefined;
    danger?: number | undefined;
    /** To which side it gets worse. */
    worse: 'above' | 'below';
    /** UCUM code. */
    unit: string;
    /** The value as it is read. */
    told: Quantity;
    /** Whether several lie one under the other. */
    isSmall?: boolean;
  }
  let { value, scale, warning, danger, worse, unit, told, isSmall = false }: Props = $props();
  const at = (of: number) => Math.min(100, Math.max(0, ((of - scale.from) / (scale.to - scale.from)) * 100));
  const shown = $derived(displayScale(unit, [scale.from, scale.to]));
  /** A zone reaches from its limit to the worse end, or to the graver limit. */
  const zones = $derived.by(() => {
    const end = worse === 'above' ? 100 : 0;
    const zone = (from: number, to: number, colour: string) => ({
      left: Math.min(from, to),
      width: Math.abs(to - from),
      colour
    });
    const red = danger === undefined ? null : zone(at(danger), end, '--major');
    const amber =
      warning === undefined ? null : zone(at(warning), danger === undefined ? end : at(danger), '--warning');
    return [amber, red].flatMap((one) => (one && one.width > 0 ? [one] : []));
  });
  const isPast = (limit: number | undefined) =>
    limit !== undefined && (worse === 'above' ? value >= limit : value <= limit);
  const word = $derived(isPast(danger) ? 'danger' : isPast(warning) ? 'warning' : '');
  const ticks = [0, 25, 50, 75, 100];
</script>

<div
  class="relative mx-2 shrink-0 select-none"
  role="meter"
  aria-valuenow={value}
  aria-valuemin={scale.from}
  aria-valuemax={scale.to}
  aria-valuetext="{told.number} {told.unit}{word === '' ? '' : `, ${word}`}"
  aria-label="Value on its scale"
>
  <p class="num leading-tight whitespace-nowrap" style:padding-left="min({at(value)}%, calc(100% - 130px))">
    <b class={isSmall ? '' : 'text-[20px]!'} data-testid="gauge">{told.number}</b>
    <span class="text-quiet">{told.unit}</span>
    {#if word !== ''}<span class={['text-[12px]', word === 'danger' ? 'text-major' : 'text-warning']}>{word}</span>{/if}
  </p>
  <div class="border-strong bg-sunk relative h-3 border">
    {#each zones as { left, width, colour } (colour)}
      <span
        class="absolute inset-y-0"
        style:left="{left}%"
        style:width="{width}%"
        style:background="color-mix(in srgb, var({colour}) 38%, transparent)"
      ></span>
    {/each}
    <span class="bg-deep absolute top-[3px] bottom-[3px] left-0" style:width="{at(value)}%"></span>
    <span class="bg-ink absolute -top-1 -bottom-1 w-[2px]" style:left="calc({at(value)}% - 1px)"></span>
  </div>
  {#if !isSmall}
    <div class="text-quiet num relative mt-0.5 h-4 text-[10.5px]!">
      {#each ticks as tick (tick)}
        <span
          class="absolute whitespace-nowrap"
          style:left="{tick}%"
          style:transform={tick === 0 ? 'none' : tick === 100 ? 'translateX(-100%)' : 'translateX(-50%)'}
          >{digits((scale.from + ((scale.to - scale.from) * tick) / 100) / shown.divisor)}{tick === 100 && shown.text
            ? ` ${shown.text}`
            : ''}</span
        >
      {/each}
    </div>
  {/if}
</div>
