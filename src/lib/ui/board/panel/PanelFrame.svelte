<script lang="ts">
  import type { Panel } from '$lib/core/board';
  import { signalsOf } from '$lib/core/board';
  import { signalSentence } from '$lib/core/signal';
  import { fixedRange, type Range } from '$lib/core/time';
  import { page } from '$app/state';
  import { provideTimeView, zoomBack, zoomTo } from '../../time/view.svelte';
  import Maximize from '@lucide/svelte/icons/maximize-2';
  import Minimize from '@lucide/svelte/icons/minimize-2';
  import PanelAbout from './PanelAbout.svelte';
  import PanelBody from './PanelBody.svelte';
  import PanelMenu from './PanelMenu.svelte';
  import { followedPickers, notesOf } from './panel-notes';
  import type { PanelView } from '../data/panel-view.svelte';
  import { metricOf, useBoardContext } from '../data/board-context.svelte';

  interface Props {
    panel: Panel;
    view: PanelView;
    /** The span it shows. */
    range: Range;
    isLarge: boolean;
    onLarge: () => void;
  }
  let { panel, view, range, isLarge, onLarge }: Props = $props();
  const boardContext = useBoardContext();
  let section: HTMLElement;
  let isExplained = $state(false);

  provideTimeView({
    get zone() {
      return boardContext.zone;
    },
    choose: (from, to) => {
      if (view.unlinked || !boardContext.linked) view.choose(fixedRange(from, to));
      else zoomTo(from, to);
    },
    stepBack: () => {
      if (view.unlinked) view.stepBack();
      else zoomBack();
    }
  });

  /** Its signals as they are shown now. */
  const signals = $derived(signalsOf(boardContext.asShown(panel, view)));
  const dataOf = (index: number) => view.data(panel.picture === 'snapshot' ? `column ${index}` : 'main');
  const sentence = $derived(
    signals[0] && panel.picture !== 'snapshot'
      ? signalSentence(signals[0], (name) => metricOf(boardContext.metrics, name))
      : ''
  );
  const problem = $derived(signals.map((_, index) => dataOf(index).problem).find(Boolean) ?? null);
  const notes = $derived.by(() => {
    const answer = signals[0] ? dataOf(0).answer : null;
    return answer && signals[0] ? notesOf(panel, signals[0], answer, view, boardContext, page.url.searchParams) : [];
  });
  const followed = $derived(followedPickers(panel, boardContext));
  /** Pickers that choose something which this panel does not show. */
  const unfollowed = $derived(
    boardContext.pickers.filter(
      (picker) =>
        signals.length > 0 && (boardContext.choices[picker.name] ?? []).length > 0 && !followed.includes(picker)
    )
  );
  const explained = $derived(
    followed.length === 0 ? sentence : `${sentence}. It follows ${followed.map(({ title }) => title).join(', ')}.`
  );
</script>

<section class="panel h-full min-h-0" aria-label={panel.title} bind:this={section}>
  <header class={boardContext.editing ? 'panel-handle cursor-move' : ''}>
    <h2 class="max-w-[70%] shrink-0 truncate" title={panel.about ? `${panel.title}: ${panel.about}` : panel.title}>
      {panel.title}
    </h2>
    {#if panel.about}<PanelAbout title={panel.title} about={panel.about} bind:isOpen={isExplained} />{/if}
    <small class="shrink-[6]" title={explained}>{sentence}</small>
    <span class="text-quiet ml-auto flex min-w-[44px] items-center gap-2 self-center text-[12px]">
      <span class="min-w-0 truncate" title={notes.join(', ')}>{notes.join(', ')}</span>
      {#if unfollowed.length > 0}
        <span title="It does not follow {unfollowed.map(({ title }) => title).join(', ')}"
          >not by {unfollowed.map(({ title }) => title.toLowerCase()).join(', ')}</span
        >
      {/if}
      {#if !boardContext.editing && boardContext.who !== 'wall'}
        <button aria-label={isLarge ? `Make ${panel.title} small again` : `Maximise ${panel.title}`} onclick={onLarge}>
          {#if isLarge}<Minimize size={13} />{:else}<Maximize size={13} />{/if}
        </button>
        <PanelMenu {panel} {view} {range} node={() => section} />
      {/if}
    </span>
  </header>
  {#if panel.about}<p
      class={['mb-1 text-[12.5px] whitespace-pre-line', !isExplained && 'hidden print:block']}
      data-printed
    >
      {panel.about}
    </p>{/if}
  <PanelBody {panel} {view} {range} signal={signals[0]} {problem} label="{panel.title}: {sentence}" />
</section>
