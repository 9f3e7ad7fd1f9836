<script lang="ts">
  interface Props {
    /** What was changed, such as "this alarm". */
    what: string;
    /** Who changed it. */
    by: string;
    onTheirs: () => void;
    onMine: () => void;
  }
  let { what, by, onTheirs, onMine }: Props = $props();
</script>

<div class="panel mb-2 flex-row! flex-wrap items-center gap-3 text-[13px]" role="alert">
  <span
    ><b>{by === '' ? 'Somebody else' : by} changed {what} while you were editing it.</b> Nothing you typed is lost.</span
  >
  <span class="ml-auto flex gap-2">
    <button type="button" class="btn" onclick={onTheirs}>Show theirs</button>
    <button type="button" class="btn" onclick={onMine}>Use mine</button>
  </span>
</div>
