/** Why this browser cannot show notifications; null when it can. */
export function whyNoNotifications(): string | null {
  if (!window.isSecureContext)
    return 'Browsers show notifications of addresses with https only. Ask whoever runs Bussola to serve it so.';
  if (!('serviceWorker' in navigator) || !('PushManager' in window))
    return 'This browser cannot show notifications. On an iPhone, add Bussola to the home screen first.';
  if (Notification.permission === 'denied')
    return 'This browser does not permit notifications of Bussola. Permit them in its settings for this address.';
  return null;
}

const bytesOf = (text: string): Uint8Array<ArrayBuffer> =>
  Uint8Array.from(atob(text.replaceAll('-', '+').replaceAll('_', '/')), (letter) => letter.charCodeAt(0));

/**
 * Has this browser take notifications, after asking whoever uses it.
 *
 * @param publicKey of this Bussola, in base64url
 * @returns what Bussola sends them to
 * @throws Error with a reason for people
 */
export async function subscribeThisDevice(publicKey: string): Promise<PushSubscriptionJSON> {
  if ((await Notification.requestPermission()) !== 'granted')
    throw new Error('Notifications were not permitted. Permit them when the browser asks.');
  const registration = await navigator.serviceWorker.register('/device-worker.js');
  await navigator.serviceWorker.ready;
  try {
    const subscription = await registration.pushManager.subscribe({
      userVisibleOnly: true,
      applicationServerKey: bytesOf(publicKey)
    });
    return subscription.toJSON();
  } catch (error) {
    throw new Error(
      `The browser could not reach its push service (${error instanceof Error ? error.message : String(error)}). Check the connection and try again.`,
      { cause: error }
    );
  }
}

/** What this device is called at first. @example deviceName('Mozilla/5.0 (Linux; Android 15) …') // 'Phone' */
export function deviceName(agent: string): string {
  if (/iPad|Tablet/.test(agent)) return 'Tablet';
  return /Android|iPhone|Mobile/.test(agent) ? 'Phone' : 'Computer';
}
