/** Does something later. @returns what prevents it */
export function later(ms: number, work: () => void): () => void {
  const timer = setTimeout(work, ms);
  return () => clearTimeout(timer);
}
