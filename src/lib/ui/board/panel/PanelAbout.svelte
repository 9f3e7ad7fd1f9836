<script lang="ts">
  import Info from '@lucide/svelte/icons/info';

  interface Props {
    title: string;
    about: string;
    /** Whether it is unfolded, for those who cannot hover. */
    isOpen: boolean;
  }
  let { title, about, isOpen = $bindable() }: Props = $props();
</script>

<button
  data-chrome
  class="text-quiet shrink-0 self-center"
  title={about}
  aria-label="About {title}"
  aria-expanded={isOpen}
  onclick={() => (isOpen = !isOpen)}><Info size={13} /></button
>
