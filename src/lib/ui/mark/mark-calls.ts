import type { NewMark } from '$lib/core/mark';

/** Puts a mark. @returns why it could not be put, in words; empty when it is */
export const putMark = (mark: NewMark): Promise<string> =>
  problemOf(
    fetch('/api/v1/marks', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(mark)
    })
  );

/** Takes a mark away. @returns why it could not be, in words; empty when it is gone */
export const takeMarkAway = (id: number): Promise<string> =>
  problemOf(fetch(`/api/v1/marks/${id}`, { method: 'DELETE' }));

async function problemOf(call: Promise<Response>): Promise<string> {
  const response = await call.catch(() => null);
  if (response?.ok) return '';
  const told = (await response?.json()) as
    { message: string; remedy?: string; problems?: { message: string }[] } | undefined;
  return (
    told?.problems?.[0]?.message ??
    ([told?.message, told?.remedy].filter(Boolean).join(' ') || 'Bussola is not reached. Try again.')
  );
}
