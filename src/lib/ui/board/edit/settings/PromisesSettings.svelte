<script lang="ts">
  import type { PanelOf } from '$lib/core/board';
  import { callApi } from '../../../api';

  interface Props {
    panel: PanelOf<'promises'>;
    onChange: (panel: PanelOf<'promises'>) => void;
  }
  let { panel, onChange }: Props = $props();
  let all = $state.raw<readonly { readonly id: number; readonly objective: { readonly name: string } }[]>([]);
  $effect(() => {
    const asking = new AbortController();
    void callApi<{ objectives: typeof all }>('GET', '/objectives', { signal: asking.signal }).then((reply) => {
      if (reply.kind === 'answered') all = reply.answer.objectives;
    });
    return () => asking.abort();
  });
  const isShown = (id: number) => panel.only.length === 0 || panel.only.includes(id);
  function toggle(id: number): void {
    const shown = all.map((one) => one.id).filter((one) => (one === id ? !isShown(one) : isShown(one)));
    onChange({ ...panel, only: shown.length === all.length ? [] : shown });
  }
</script>

<fieldset>
  <legend>Promises</legend>
  {#each all as { id, objective } (id)}
    <label class="block"
      ><input
        type="checkbox"
        checked={isShown(id)}
        disabled={panel.only.length === 1 && panel.only[0] === id}
        onchange={() => toggle(id)}
      />
      {objective.name}</label
    >
  {:else}<p class="text-quiet text-[12px]">There is none yet.</p>{/each}
</fieldset>
