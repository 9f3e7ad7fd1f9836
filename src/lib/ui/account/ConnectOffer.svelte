<script lang="ts">
  import { useReader } from '../time/reader';

  interface Props {
    /** Whether it is the main thing to do where it stands, rather than words within a sentence. */
    isMain?: boolean;
  }
  let { isMain = false }: Props = $props();
  const { mayAdminister } = useReader();
</script>

{#if mayAdminister}<a class={isMain ? 'btn btn-main' : 'link'} href="/accounts/new">Connect an account</a>{:else}<span
    >Ask an administrator to connect an account</span
  >{/if}
