<script lang="ts">
  import TimeChart from '../chart/TimeChart.svelte';
  import type { Picture } from '../chart/picture';
  import type { Found } from './found.svelte';
  import { barKinds } from './tone';

  let { found }: { found: Found } = $props();
  const picture: Picture = $derived({
    start: found.barsFrom,
    step: found.step,
    count: found.bars.length,
    range: { from: found.from, to: found.to },
    unit: '{line}',
    digits: 0,
    drawing: 'bars',
    lines: barKinds.map(({ places, name, tone }, index) => ({
      id: index,
      ...{ name, tone, hue: 1, dashed: false },
      values: Float64Array.from(found.bars, (bar) => places.reduce((sum, place) => sum + (bar[place] ?? 0), 0))
    }))
  });
</script>

<TimeChart {picture} label="Lines by severity over time" height={110} />
