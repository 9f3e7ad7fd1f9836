<script lang="ts">
  import { summarise } from '$lib/core/series';

  interface Props {
    values: Float64Array;
    width?: number;
    height?: number;
    hue?: number;
  }
  let { values, width = 140, height = 34, hue = 1 }: Props = $props();
  /** One path for each stretch without gaps. */
  const paths = $derived.by(() => {
    const { min, max } = summarise(values);
    const y = (value: number) => height - 2 - ((value - min) / (max - min || 1)) * (height - 4);
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
