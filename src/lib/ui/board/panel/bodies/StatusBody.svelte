<script lang="ts">
  import type { PanelOf } from '$lib/core/board';
  import { serviceByKey } from '$lib/core/services';
  import SeverityHoist from '../../../alarm/SeverityHoist.svelte';
  import { useBoardContext } from '../../data/board-context.svelte';

  let { panel }: { panel: PanelOf<'status'> } = $props();
  const boardContext = useBoardContext();
  const rows = $derived(
    panel.of === 'services'
      ? boardContext.things.services.map(({ service, resources, worst }) => ({
          href: `/services/${service}/board`,
          name: serviceByKey(service).title,
          resources,
          worst
        }))
      : boardContext.things.groups.map(({ id, name, resources, worst }) => ({
          href: `/groups/${id}`,
          name,
          resources,
          worst
        }))
  );
</script>

<ul class="min-h-0 flex-1 overflow-y-auto text-[13.5px]">
  {#each rows as { href, name, resources, worst } (href)}
    <li class="border-line border-b last:border-0">
      <a class="flex items-center gap-2 py-1 no-underline" href={boardContext.href(href)}>
        <SeverityHoist severity={worst} />{name}
        <span class="text-quiet ml-auto text-[12px]">{worst ?? 'clear'}</span>
        <span class="num w-[40px] text-right" title="resources">{resources}</span>
      </a>
    </li>
  {:else}
    <li class="text-quiet text-[13px]">
      {panel.of === 'groups' ? 'No group yet: groups gather resources by rule.' : 'Nothing is collected yet.'}
    </li>
  {/each}
</ul>
