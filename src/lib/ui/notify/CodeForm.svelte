<script lang="ts">
  import { enhance } from '$app/forms';

  interface Props {
    /** The channel that the code confirms, and what it is called. */
    id: number;
    name: string;
  }
  let { id, name }: Props = $props();
</script>

<form class="inline" method="post" action="?/confirm" use:enhance>
  <input type="hidden" name="id" value={id} /><input
    class="field num w-24"
    name="code"
    aria-label="Code for {name}"
    inputmode="numeric"
    autocomplete="one-time-code"
    placeholder="code"
    required
  /><button class="btn">Confirm</button>
</form>
