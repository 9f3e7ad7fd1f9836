<script lang="ts">
  interface Props {
    /** The route that is named; null for the list of routes. */
    route: number | null;
    routes: readonly { readonly id: number; readonly name: string }[];
    /** What the list of routes is called here, and what stands before the name of a route. */
    byList: string;
    prefix?: string;
  }
  let { route = $bindable(), routes, byList, prefix = '' }: Props = $props();
</script>

<select class="part" aria-label="Route" bind:value={route}
  ><option value={null}>{byList}</option>{#each routes as { id, name } (id)}<option value={id}>{prefix}{name}</option
    >{/each}</select
>
