import type { Problem } from '$lib/core/problem/problem';
import type { ShownFollowed, ShownLine } from '$lib/core/logs';

/** Lines that a page holds: beyond, the oldest go. */
const most = 500;

/** A search that goes on: what has come since it began, the newest first. */
export class LineFollower {
  lines = $state.raw<readonly ShownLine[]>([]);
  /** What came while nobody wanted the list to move, the newest first. */
  held = $state.raw<readonly ShownLine[]>([]);
  isFollowing = $state(false);
  isPaused = $state(false);
  /** Lines that matched and are not shown: more came than can be. */
  skipped = $state(0);
  refused = $state.raw<Problem | null>(null);
  /** What comes from now on is shown: until then it is only asked for. */
  isListening = $state(false);
  /** The connection broke; the browser tries again by itself. */
  isLost = $state(false);
  #source: EventSource | null = null;

  /**
   * @param query of the address
   * @param onListening hears that it has begun, also again after a connection was lost: what came before is not among what follows
   */
  start(query: string, onListening: () => void): void {
    this.stop();
    this.lines = [];
    this.held = [];
    this.skipped = 0;
    this.refused = null;
    this.isPaused = false;
    this.isFollowing = true;
    const source = (this.#source = new EventSource(`/logs/follow?${query}`));
    source.addEventListener('following', () => {
      this.isListening = true;
      this.isLost = false;
      onListening();
    });
    source.addEventListener('lines', ({ data }: MessageEvent<string>) => {
      this.#take(JSON.parse(data) as ShownFollowed); // as /logs/follow writes it
    });
    source.addEventListener('refused', ({ data }: MessageEvent<string>) => {
      this.refused = JSON.parse(data) as Problem;
      this.stop();
    });
    source.addEventListener('failed', () => (this.isLost = true));
    source.addEventListener('error', () => (this.isLost = true));
  }

  /** Holds back what comes, so that what is being read stays where it is. */
  pause(): void {
    this.isPaused = true;
  }

  /** Shows what was held back, and goes on. */
  goOn(): void {
    this.lines = [...this.held, ...this.lines].slice(0, most);
    this.held = [];
    this.isPaused = false;
  }

  stop(): void {
    this.#source?.close();
    this.#source = null;
    this.isFollowing = false;
    this.isListening = false;
    this.isLost = false;
  }

  #take({ lines, skipped }: ShownFollowed): void {
    this.skipped += skipped;
    if (lines.length === 0) return;
    const newest = lines.toReversed();
    if (!this.isPaused) this.lines = [...newest, ...this.lines].slice(0, most);
    else {
      const held = [...newest, ...this.held];
      this.skipped += Math.max(0, held.length - most);
      this.held = held.slice(0, most);
    }
  }
}
