<script lang="ts">
  import type { AlarmReach } from '$lib/core/alarm';
  import type { RoutingChoices } from '$lib/core/notify/route';

  interface Props {
    routes: RoutingChoices['routes'];
    /** The route that is named; null for the list. */
    chosen: number | null;
    /** Who would be notified of what is raised. */
    reach: AlarmReach | null;
    disabled: boolean;
  }
  let { routes, chosen = $bindable(), reach, disabled }: Props = $props();
</script>

<section class="panel" aria-label="Who is notified">
  <header>
    <h2>Who is notified</h2>
    <small>when it is raised and when it clears</small>
  </header>
  <select
    class="field"
    aria-label="Route"
    {disabled}
    value={chosen ?? ''}
    onchange={(event) => (chosen = event.currentTarget.value === '' ? null : Number(event.currentTarget.value))}
  >
    <option value="">The list of routes decides</option>
    {#each routes as { id, route } (id)}<option value={id}>Always the route {route.name}</option>{/each}
  </select>
  {#if reach}
    <p class="mt-2 text-[13px]">
      <b>{reach.route}</b>: {reach.says}. <a class="link" href="/routes">See the routes</a>
    </p>
    {#if reach.unconfirmed.length > 0}<p class="fault text-[13px]">
        Not confirmed: {reach.unconfirmed.join(', ')}
      </p>{/if}
  {:else}<p class="fault mt-2 text-[13px]">
      No route takes it, so nobody is notified. <a class="link" href="/routes">Add a route</a>
    </p>{/if}
</section>
