<script lang="ts">
  import { page } from '$app/state';
  import { setParameters } from '../address';

  interface Props {
    /** What the field for text is called, and what can be written there. */
    textLabel: string;
    placeholder: string;
    selects: readonly {
      /** Under which it stands in the address. */
      readonly name: string;
      readonly label: string;
      /** What is said while nothing is chosen. */
      readonly none: string;
      readonly options: readonly { readonly value: string; readonly text: string }[];
    }[];
    /** Where all is shown; null while nothing is left out. */
    allHref: string | null;
    /** What no longer holds with another choice, such as the page of a list. */
    without?: readonly string[];
  }
  let { textLabel, placeholder, selects, allHref, without = [] }: Props = $props();
  /** Stands in the address, so that a list can be sent to a colleague as it is filtered. */
  function choose(name: string, value: string): void {
    const gone = Object.fromEntries(without.map((one) => [one, null]));
    void setParameters({ ...gone, [name]: value === '' ? null : value }, true);
  }
  const chosen = (name: string): string => page.url.searchParams.get(name) ?? '';
  const said = $derived(chosen('text'));
  /** What is typed. Another text in the address replaces it; news do not, since what they read anew says the same. */
  let text = $derived(said);
</script>

<form
  class="mb-2.5 flex flex-wrap items-center gap-2 text-[13px]"
  aria-label="Filter"
  onsubmit={(event) => {
    event.preventDefault();
    choose('text', text.trim());
  }}
>
  <input
    class="field w-[220px]!"
    type="search"
    aria-label={textLabel}
    {placeholder}
    bind:value={text}
    onchange={() => choose('text', text.trim())}
  />
  {#each selects as { name, label, none, options } (name)}
    <select
      class="field w-auto!"
      aria-label={label}
      value={chosen(name)}
      onchange={(event) => choose(name, event.currentTarget.value)}
    >
      <option value="">{none}</option>
      {#each options as option (option.value)}<option value={option.value}>{option.text}</option>{/each}
    </select>
  {/each}
  {#if allHref !== null}<a class="link" href={allHref}>Show all</a>{/if}
</form>
