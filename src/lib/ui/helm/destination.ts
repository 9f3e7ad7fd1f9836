/** Something the palette finds: a page to go to, or something to do. */
export interface Destination {
  readonly title: string;
  readonly kind: string;
  readonly href?: string;
  /** What is done instead of going somewhere. */
  readonly run?: () => void;
}
