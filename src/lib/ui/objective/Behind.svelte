<script lang="ts">
  import { minute, peopleMoment, times, type Instant } from '$lib/core/time';
  import { useReader } from '../time/reader';

  interface Props {
    name: string;
    /** Up to where it is counted, and the time of the server. */
    until: Instant;
    now: Instant;
  }
  let { name, until, now }: Props = $props();
  const { dates } = useReader();
  /** What it is counted on may come late; beyond this something is wrong. */
  const usual = times(30, minute);
</script>

{#if now - until > usual}<p class="mb-2 text-[13px]" data-behind={name}>
    <b>!</b>
    {name} is counted until {peopleMoment(until, now, dates)}: later data of what it is measured on have not come.
    <a class="link" href="/intake">Intake</a>
  </p>{/if}
