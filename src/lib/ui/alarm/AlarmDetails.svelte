<script lang="ts">
  import type { AlarmDefinition } from '$lib/core/alarm';
  import { useReader } from '../time/reader';

  interface Props {
    /** The alarm, changed in place. */
    alarm: AlarmDefinition;
    disabled: boolean;
  }
  let { alarm = $bindable(), disabled }: Props = $props();
  const reader = useReader();
  const labelsText = $derived(
    Object.entries(alarm.labels)
      .map(([name, value]) => `${name}=${value}`)
      .join(', ')
  );

  function chooseLabels(text: string): void {
    const pairs = text.split(',').flatMap((pair): [string, string][] => {
      const [name = '', ...value] = pair.split('=');
      return name.trim() === '' ? [] : [[name.trim(), value.join('=').trim()]];
    });
    alarm.labels = Object.fromEntries(pairs);
  }
</script>

<section class="panel" aria-label="For whoever is woken">
  <header>
    <h2>For whoever is woken</h2>
    <small>shown on its incidents</small>
  </header>
  <fieldset {disabled} class="grid gap-2 text-[13px]">
    <label class="flex items-center gap-2"
      ><input type="checkbox" bind:checked={alarm.enabled} /> Judge this alarm</label
    >
    <label
      >Owner<input
        class="field w-full"
        maxlength="80"
        list="owners-of-alarms"
        bind:value={alarm.owner}
        placeholder="a team or a person"
      /></label
    >
    <datalist id="owners-of-alarms"
      >{#each reader.teams as { id, name } (id)}<option value={name}></option>{/each}</datalist
    >
    <label>Runbook<input class="field w-full" type="url" bind:value={alarm.runbook} placeholder="https://…" /></label>
    <label
      >Labels<input
        class="field w-full"
        value={labelsText}
        placeholder="team=Data, tier=1"
        onchange={(event) => chooseLabels(event.currentTarget.value)}
      /></label
    >
    <label
      >What to do, in CommonMark<textarea class="field h-24 w-full" maxlength="10000" bind:value={alarm.about}
      ></textarea></label
    >
  </fieldset>
</section>
