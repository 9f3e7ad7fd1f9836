/** A start or a request that is refused for a reason a person can mend: what happened, why, what to do. */
export class Refusal extends Error {
  readonly remedy: string;
  /** The status with which a request is answered. */
  readonly status: number = 422;

  constructor(message: string, remedy: string, options?: ErrorOptions) {
    super(message, options);
    this.name = 'Refusal';
    this.remedy = remedy;
  }
}
