<script lang="ts">
  import { shareOf, useStanding, type Use } from '$lib/core/clusters';
  import { quantityText } from '$lib/core/units';

  interface Props {
    use: Use;
    /** UCUM code of its numbers. */
    unit: string;
    /** What it is of, for those who do not see it. */
    label: string;
    width?: number;
    /** Whether the share of the limit stands beside it, instead of both numbers. */
    brief?: boolean;
  }
  let { use, unit, label, width = 110, brief = false }: Props = $props();
  const state = $derived(useStanding(use));
  const share = $derived(shareOf(use));
  /** Where the ruler ends: at the limit, else a little after what is on it. */
  const end = $derived(use.limit ?? Math.max(use.used ?? 0, use.requested ?? 0, 1e-9) * 1.25);
  const at = (value: number): number => Math.min(1, Math.max(0, value / end)) * width;
  const text = (value: number | null): string => (value === null ? 'not known' : quantityText(value, unit));
  const words = $derived(
    `${label}: ${text(use.used)} in use, ${text(use.requested)} requested, ${use.limit === null ? 'no limit' : `limit ${text(use.limit)}`}${state === 'near limit' ? ', near its limit' : ''}`
  );
</script>

<span class="inline-flex items-center gap-2 whitespace-nowrap" title={words}>
  <svg {width} height="14" role="img" aria-label={words}>
    <line x1="0" x2={width} y1="10" y2="10" stroke="var(--line-strong)" />
    {#if use.limit !== null}<line
        x1={width - 0.5}
        x2={width - 0.5}
        y1="3"
        y2="14"
        stroke="var(--line-strong)"
        stroke-width="1.5"
      />{/if}
    {#if use.used !== null}<rect
        y="6"
        height="5"
        width={Math.max(1, at(use.used))}
        fill="var({state === 'near limit' ? '--major' : state === 'above request' ? '--hue-2' : '--hue-1'})"
      />{/if}
    {#if use.requested !== null}<path
        d="M{at(use.requested)} 1 v12"
        stroke="currentColor"
        stroke-width="1.5"
        stroke-dasharray="2 1.5"
      />{/if}
  </svg>
  <span class={['num text-[12.5px]', state === 'near limit' && 'fault font-semibold']}
    >{#if brief && share !== null}{Math.round(share * 100)} %{:else}{use.used === null
        ? '–'
        : quantityText(use.used, unit)}<span class="text-quiet font-normal"
        >{use.limit === null ? '' : ` of ${quantityText(use.limit, unit)}`}</span
      >{/if}</span
  >
</span>
