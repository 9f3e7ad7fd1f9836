<script lang="ts">
  import type { ShownOperation } from '$lib/core/operations';
  import { isInRightOfMaker, scopeWords } from '$lib/core/people/key-scopes';
  import Outline from './Outline.svelte';

  interface Props {
    operation: ShownOperation;
    origin: string;
  }
  let { operation, origin }: Props = $props();
  const keys = $derived.by(() => {
    const { scope } = operation;
    if (scope === null) return null;
    return `keys that may ${scopeWords[scope]}${isInRightOfMaker(scope) ? ', in the right of whoever made them' : ''}`;
  });
</script>

<section class="panel" aria-label="This operation">
  <header><h2>{operation.summary}</h2></header>
  <p class="num text-[13px] break-all select-all">{operation.method} {origin}/api/v1{operation.path}</p>
  <p class="text-quiet mt-1 mb-2 text-[13px]">
    {#if operation.right !== 'anybody'}People with the role {operation.right} or more; {keys ??
        'no key'}.{:else if keys === null}Anybody.{:else}Only
      {keys}.{/if}
  </p>
  {#if operation.parameters.length > 0}<Outline rows={operation.parameters} label="Parameters" />{/if}
  {#if operation.body.length > 0 || operation.examples.length > 0}
    <h3 class="mt-2.5">What is sent</h3>
    <Outline rows={operation.body} label="What is sent" />
    {#each operation.examples as { type, text } (type)}
      <p class="text-quiet mt-1.5 text-[12px]">For example, <span class="num">{type}</span></p>
      <pre class="num border-line mt-1 border p-2 text-[12px] break-words whitespace-pre-wrap select-all">{text}</pre>
    {/each}
  {/if}
  <h3 class="mt-2.5">What is answered</h3>
  <p class="text-[13px]">
    {operation.status}{#if operation.answer.length === 0 && operation.types.length === 0}, with nothing in it{/if}{#if operation.types.length > 0},
      also as
      <span class="num">{operation.types.join(', ')}</span>{/if}.
    <span class="text-quiet">A refusal is a problem with a code.</span>
  </p>
  {#if operation.answer.length > 0}<Outline rows={operation.answer} label="What is answered" />{/if}
  <p class="text-quiet mt-2 text-[13px]">
    {#if operation.method === 'GET'}Its tag (ETag) can be sent as If-None-Match: 304 while nothing has changed.{:else}With
      If-Match, only what is as it was read is changed.{/if}
    {#if operation.mayRepeat}With an Idempotency-Key, it can be sent again and is done once.{/if}
  </p>
  <h3 class="mt-2.5">From a shell</h3>
  <p class="num text-[12px] break-all select-all">{operation.shell}</p>
</section>
