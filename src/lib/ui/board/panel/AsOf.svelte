<script lang="ts">
  import type { Instant } from '$lib/core/time';
  import { useLive } from '../../live/live.svelte';
  import Moment from '../../time/Moment.svelte';

  /** Until when the figure beside it is known. */
  let { at }: { at: Instant } = $props();
  const live = useLive();
</script>

<span class="whitespace-nowrap">as of <Moment {at} now={live.now} /></span>
