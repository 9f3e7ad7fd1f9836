<script lang="ts">
  import type { Panel, PanelOf } from '$lib/core/board';
  import type { QueryAnswer } from '$lib/core/series';

  interface Props {
    panel: PanelOf<'table'>;
    answer: QueryAnswer | null;
    onChange: (panel: Panel) => void;
  }
  let { panel, answer, onChange }: Props = $props();

  function call(name: string, text: string): void {
    const called = text.trim();
    const names = Object.fromEntries(Object.entries(panel.names).filter(([of]) => of !== name));
    onChange({ ...panel, names: called === '' || called === name ? names : { ...names, [name]: called } });
  }
</script>

<p class="font-semibold">Columns</p>
{#each answer?.series ?? [] as { id, name } (id)}
  <label class="flex items-center gap-2"
    ><span class="text-quiet min-w-0 flex-1 truncate">{name}</span> is called
    <input
      class="field w-[150px]! text-[13px]!"
      value={panel.names[name] ?? name}
      onchange={(event) => call(name, event.currentTarget.value)}
    /></label
  >
{/each}
