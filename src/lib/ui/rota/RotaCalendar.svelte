<script lang="ts">
  import type { CalendarRow, CalendarSpan } from '$lib/core/rota';
  import { dateAfter, dateAt, exactMoment, firstInstantAt, peopleDay, type Instant, type Range } from '$lib/core/time';

  interface Props {
    rows: readonly CalendarRow[];
    within: Range;
    zone: string;
    now: Instant;
    nameOf: (personId: number) => string;
    /** Whose shifts stand out. */
    personId: number;
    chosen: number | null;
    onChoose: (rotaId: number) => void;
  }
  let { rows, within, zone, now, nameOf, personId, chosen, onChoose }: Props = $props();
  const share = (at: number) => ((at - within.from) / (within.to - within.from)) * 100;
  const days = $derived.by(() => {
    const all: { at: Instant; text: string }[] = [];
    for (let date = dateAt(within.from, zone); ; date = dateAfter(date, 1)) {
      const at = firstInstantAt(date, '00:00', zone);
      if (at >= within.to) return all;
      if (at >= within.from) all.push({ at, text: peopleDay(at, zone).split(' ').slice(0, 2).join(' ') });
    }
  });
  const words = (span: CalendarSpan) =>
    `${span.personId === null ? 'nobody' : nameOf(span.personId)}${span.kind === 'override' ? ' took it over' : ''}, ${exactMoment(span.from, zone)} to ${exactMoment(span.to, zone)}`;
</script>

<div class="overflow-x-auto">
  <div class="min-w-[780px] text-[13px]" role="table" aria-label="Who has the watch">
    <div class="flex" role="row">
      <span class="w-[230px] shrink-0" role="columnheader"><span class="sr-only">Rota</span></span>
      <div class="relative h-6 flex-1" role="columnheader">
        {#each days as { at, text } (at)}<span
            class="num text-quiet absolute text-[11px] whitespace-nowrap"
            style:left="{share(at)}%">{text}</span
          >{/each}
      </div>
    </div>
    {#each rows as { rotaId, layer, title, hours, spans } (`${rotaId} ${layer}`)}
      <div class={['border-line flex items-center border-t', chosen === rotaId && 'bg-shallow']} role="row">
        <div class="w-[230px] shrink-0" role="rowheader">
          <button
            class="flex h-[34px] w-full items-center gap-2 pr-2 pl-1 text-left"
            aria-pressed={chosen === rotaId}
            onclick={() => onChoose(rotaId)}
          >
            <b class="min-w-0 shrink-0 truncate">{title}</b><span
              class="text-quiet ml-auto truncate text-[12px]"
              title={hours}>{hours.length > 30 ? 'certain hours' : hours.replace(/^every day from /, '')}</span
            >
          </button>
        </div>
        <div class="relative h-[34px] flex-1" role="cell">
          {#each spans as span (`${span.kind} ${span.from}`)}
            <span
              class={[
                'absolute top-1 bottom-1 truncate rounded-[3px] border px-1.5 leading-[24px]',
                span.kind === 'gap'
                  ? 'gap border-major'
                  : span.kind === 'override'
                    ? 'border-deep bg-panel border-dashed'
                    : 'border-strong bg-sunk',
                span.personId === personId && 'mine'
              ]}
              style:left="{share(span.from)}%"
              style:width="calc({share(span.to) - share(span.from)}% - 2px)"
              title={words(span)}
              ><span aria-hidden="true">{span.personId === null ? '' : nameOf(span.personId)}</span><span
                class="sr-only">{words(span)}</span
              ></span
            >
          {/each}
          {#if now >= within.from && now < within.to}<span
              class="bg-deep absolute top-0 bottom-0 w-[2px]"
              style:left="{share(now)}%"
            ></span>{/if}
        </div>
      </div>
    {/each}
  </div>
</div>

<style>
  .gap {
    background: repeating-linear-gradient(45deg, transparent 0 4px, var(--major) 4px 5px);
  }
  .mine {
    background: var(--shallow);
    border-color: var(--deep);
    font-weight: 600;
  }
</style>
