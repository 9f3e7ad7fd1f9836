/** A metric that an alarm can watch. */
export interface PickableMetric {
  readonly name: string;
  readonly title: string;
  readonly unit: string;
  readonly shape: string;
  readonly kind: string;
  readonly resourceType: string;
}

/** A resource that an alarm can watch. */
export interface PickableResource {
  readonly id: number;
  readonly name: string;
  readonly account: string;
  readonly type: string;
}
