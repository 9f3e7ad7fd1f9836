<script lang="ts">
  import { exactMoment, peopleMoment, textFromInstant, type Instant } from '$lib/core/time';
  import { useReader } from './reader';

  /** The moment, and the present it is compared with. */
  let { at, now }: { at: Instant; now: Instant } = $props();
  const { zone } = useReader();
</script>

<time datetime={textFromInstant(at)} title={exactMoment(at, zone)} class="num whitespace-nowrap"
  >{peopleMoment(at, now, zone)}</time
>
