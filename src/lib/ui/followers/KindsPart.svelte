<script lang="ts">
  import { changeKindNames, changeKinds, type ChangeKind } from '$lib/core/followers';

  interface Props {
    /** Kinds that are chosen; every kind where there are none. */
    kinds: ChangeKind[];
    /** Tells the fields of one form from those of another. */
    of: string;
  }
  let { kinds = $bindable(), of }: Props = $props();
  // Some may be meant before the first one is chosen.
  let meansSome = $state(false);
  const isSome = $derived(meansSome || kinds.length > 0);
  const all = changeKindNames.toSorted((one, other) => changeKinds[one].localeCompare(changeKinds[other], 'en'));
  function mean(some: boolean): void {
    meansSome = some;
    if (!some) kinds = [];
  }
</script>

<fieldset class="flex w-full flex-col gap-1.5 text-[13px]">
  <legend class="text-quiet mb-1">What is sent</legend>
  <label class="flex items-center gap-1.5"
    ><input type="radio" name="what-{of}" checked={!isSome} onchange={() => mean(false)} /> every change</label
  >
  <label class="flex items-center gap-1.5"
    ><input type="radio" name="what-{of}" checked={isSome} onchange={() => mean(true)} /> changes of some kinds</label
  >
  {#if isSome}
    <div class="ml-5 grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-x-3 gap-y-1">
      {#each all as kind (kind)}
        <label class="flex items-start gap-1.5"
          ><input class="mt-0.5" type="checkbox" value={kind} bind:group={kinds} /> {changeKinds[kind]}</label
        >
      {/each}
    </div>
  {/if}
</fieldset>
