<script lang="ts">
  import { page } from '$app/state';
  import { withRange } from '../time/shown';
  import { useReader } from '../time/reader';
  import { placeOf, serviceOf } from './places';

  const here = $derived(
    serviceOf(page.url.pathname, page.url.searchParams) !== null ? null : placeOf(page.url.pathname)
  );
  const { mayAdminister } = useReader();
  const tabs = $derived((here?.place.tabs ?? []).filter(({ right }) => right === undefined || mayAdminister));
</script>

{#if here && tabs.length > 1}
  <nav
    class="border-line flex shrink-0 gap-1 overflow-x-auto border-b px-[18px] text-[13px]"
    aria-label="{here.place.title}: pages"
  >
    {#each tabs as { title, href } (href)}
      <a
        href={withRange(href)}
        aria-current={href === here.href ? 'page' : undefined}
        class={[
          'px-2.5 py-1.5 whitespace-nowrap no-underline',
          href === here.href ? 'text-ink! font-semibold shadow-[inset_0_-2px_var(--deep)]' : 'text-quiet'
        ]}>{title}</a
      >
    {/each}
  </nav>
{/if}
