<script lang="ts">
  interface Props {
    channels: readonly { id: number; name: string; address: string; confirmed: boolean }[];
    /** Ids of those that are notified. */
    chosen: number[];
    disabled: boolean;
  }
  let { channels, chosen = $bindable(), disabled }: Props = $props();

  const choose = (id: number, isChosen: boolean) =>
    (chosen = isChosen ? [...chosen, id] : chosen.filter((other) => other !== id));
</script>

<section class="panel" aria-label="Who is notified">
  <header>
    <h2>Who is notified</h2>
    <small>when it is raised and when it clears</small>
  </header>
  {#each channels as { id, name, address, confirmed } (id)}
    <label class="flex items-start gap-2 py-1 text-[13px]">
      <input
        type="checkbox"
        class="mt-0.5"
        checked={chosen.includes(id)}
        {disabled}
        onchange={(event) => choose(id, event.currentTarget.checked)}
      />
      <span
        ><b>{name}</b><br /><span class="text-quiet num">{address}</span>{#if !confirmed}<span class="fault"
            >, never confirmed</span
          >{/if}</span
      >
    </label>
  {:else}<p class="text-quiet text-[13px]">
      No channel yet. <a class="link" href="/channels">Add one</a>
    </p>{/each}
</section>
