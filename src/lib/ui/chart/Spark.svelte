<script lang="ts">
  import { summarise } from '$lib/core/series';

  interface Props {
    values: Float64Array;
    width?: number;
    height?: number;
    hue?: number;
    /** The least part of the largest value that the height stands for: changes that are small beside it look small. */
    steady?: number;
  }
  let { values, width = 140, height = 34, hue = 1, steady = 0 }: Props = $props();
  /** One path for each stretch without gaps. */
  const paths = $derived.by(() => {
    const { min, max } = summarise(values);
    const span = Math.max(max - min, steady * Math.abs(max)) || 1;
    const lowest = (min + max - span) / 2;
    const y = (value: number) => height - 2 - ((value - lowest) / span) * (height - 4);
    const x = (i: number) => (i / Math.max(1, values.length - 1)) * width;
    let path = '';
    let pen = false;
    values.forEach((value, i) => {
      if (!Number.isNaN(value)) path += `${pen ? 'L' : 'M'}${x(i).toFixed(1)} ${y(value).toFixed(1)}`;
      pen = !Number.isNaN(value);
    });
    return path;
  });
</script>

<svg {width} {height} aria-hidden="true"
  ><path d={paths} fill="none" stroke="var(--hue-{hue})" stroke-width="1.5" /></svg
>
