<script lang="ts">
  import { signalsOf, type Panel } from '$lib/core/board';
  import { picksOf } from '$lib/core/signal';
  import { metricOf, useScene } from './scene.svelte';

  interface Props {
    panel: Panel;
    /** What working the signal out said. */
    notes: readonly { readonly row: string; readonly text: string }[];
  }
  let { panel, notes }: Props = $props();
  const scene = useScene();
  let asked = $state(false);
  const unknown = $derived(
    signalsOf(panel)
      .flatMap(picksOf)
      .filter(({ metric }) => metricOf(scene.metrics, metric) === undefined)
  );
  const chosen = $derived(
    scene.pickers.filter(({ name }) => (scene.choices[name] ?? []).length > 0 && !(panel.ignores ?? []).includes(name))
  );
</script>

<div class="text-quiet grid flex-1 place-items-center overflow-y-auto text-center text-[13px]">
  <div>
    <p>Nothing is here to draw.</p>
    {#if asked}
      <ul class="text-left">
        {#each notes as { row, text } (`${row} ${text}`)}<li>{text}</li>{/each}
        {#each unknown as { metric } (metric)}<li>No account brings a metric named {metric}.</li>{/each}
        {#each chosen as { name, title } (name)}
          <li>
            {title} is {(scene.choices[name] ?? []).join(', ')}.
            {#each scene.pickers.filter((picker) => picker.name === name) as picker (picker.name)}
              <button class="link" onclick={() => scene.choose(picker, [])}>Choose all</button>
            {/each}
          </li>
        {/each}
        {#if notes.length === 0 && unknown.length === 0}
          <li>
            Its series have no sample in the shown range. <a class="link" href={scene.href('/intake')}
              >See how samples arrive</a
            >
          </li>
        {/if}
      </ul>
    {:else}<button class="link" onclick={() => (asked = true)}>Why is this empty?</button>{/if}
  </div>
</div>
