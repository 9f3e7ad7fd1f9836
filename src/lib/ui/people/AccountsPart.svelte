<script lang="ts">
  interface Props {
    /** What somebody does with some accounts, before their names; and the same for those who cannot see it. */
    label: string;
    legend: string;
    accounts: readonly { readonly id: number; readonly name: string }[];
    /** Accounts by their ids; null for as the role says. */
    chosen: 'all' | number[] | null;
    /** What the role says. */
    usual: string;
  }
  let { label, legend, accounts, chosen = $bindable(), usual }: Props = $props();
</script>

<label
  >{label}
  <select
    class="field w-auto!"
    value={chosen === null ? 'role' : chosen === 'all' ? 'all' : 'some'}
    onchange={(event) => {
      const { value } = event.currentTarget;
      chosen = value === 'role' ? null : value === 'all' ? 'all' : [];
    }}
  >
    <option value="role">{usual}, as the role says</option>
    <option value="all">every account</option>
    <option value="some">these accounts</option>
  </select></label
>
{#if Array.isArray(chosen)}<fieldset class="flex flex-wrap gap-3">
    <legend class="sr-only">{legend}</legend>
    {#each accounts as { id, name } (id)}<label class="whitespace-nowrap"
        ><input type="checkbox" value={id} bind:group={chosen} /> {name}</label
      >{/each}
  </fieldset>{/if}
