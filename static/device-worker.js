// Shows the notifications that Bussola sends to this device, and opens what they are about. It caches nothing: whatever is looked at is current.

self.addEventListener('push', (event) => {
  event.waitUntil(show(event.data));
});

async function show(data) {
  const { title, body, link, acknowledge, tag } = readable(data);
  await self.registration.showNotification(title, {
    ...{ body, tag, data: { link, acknowledge } },
    // Whatever replaces one of the same conversation is heard anew.
    renotify: true,
    icon: '/rose-192.png',
    badge: '/rose-192.png',
    actions: acknowledge ? [{ action: 'acknowledge', title: 'Acknowledge' }] : []
  });
}

/** What cannot be read is shown all the same: somebody is to look. */
function readable(data) {
  const unknown = { title: 'Bussola', body: 'Something happened. Open Bussola to see it.', link: '/', tag: 'bussola' };
  try {
    return { ...unknown, ...data.json() };
  } catch {
    return unknown;
  }
}

self.addEventListener('notificationclick', (event) => {
  event.notification.close();
  const { link, acknowledge } = event.notification.data ?? {};
  event.waitUntil(open(event.action === 'acknowledge' && acknowledge ? acknowledge : (link ?? '/')));
});

async function open(link) {
  const { href } = new URL(link, self.location.origin);
  const windows = await self.clients.matchAll({ type: 'window', includeUncontrolled: true });
  const there = windows.find((one) => one.url === href);
  await (there ? there.focus() : self.clients.openWindow(href));
}
