<script lang="ts">
  import { exactMoment, peopleMoment, textFromInstant, type Instant } from '$lib/core/time';
  import { useReader } from './reader';

  /** The moment, and the present it is compared with. */
  let { at, now }: { at: Instant; now: Instant } = $props();
  const reader = useReader();
</script>

<time datetime={textFromInstant(at)} title={exactMoment(at, reader.zone)} class="num whitespace-nowrap"
  >{peopleMoment(at, now, reader.dates)}</time
>
