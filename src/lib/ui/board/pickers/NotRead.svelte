<script lang="ts">
  interface Props {
    /** What could not be read, e.g. `values`. */
    what: string;
    onAgain: () => void;
  }
  let { what, onAgain }: Props = $props();
</script>

<li class="px-1 py-0.5" role="alert">
  The {what} could not be read.
  <button class="link" onclick={onAgain}>Try again</button>
</li>
