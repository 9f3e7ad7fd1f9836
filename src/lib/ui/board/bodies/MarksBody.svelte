<script lang="ts">
  import { useLive } from '../../live/live.svelte';
  import Moment from '../../time/Moment.svelte';
  import { useScene } from '../scene.svelte';

  const scene = useScene();
  const live = useLive();
</script>

<ul class="min-h-0 flex-1 overflow-y-auto text-[13.5px]">
  {#each scene.marks as { from, to, text } (`${from} ${text}`)}
    <li class="border-line flex items-center gap-2 border-b py-1 last:border-0">
      <svg width="9" height="12" class="text-note shrink-0" aria-hidden="true"
        ><path d="M1 0v12M1 1l7 3-7 3" fill="currentColor" stroke="currentColor" /></svg
      >
      <span>{text}</span>
      <span class="text-quiet ml-auto text-[12px] whitespace-nowrap"
        ><Moment at={from} now={live.now} />{#if to !== null}&nbsp;to <Moment at={to} now={live.now} />{/if}</span
      >
    </li>
  {:else}
    <li class="text-quiet text-[13px]">No mark lies in the shown range.</li>
  {/each}
</ul>
