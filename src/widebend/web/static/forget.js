// Who signs out leaves no cards behind: what was kept for working without a connection is forgotten where somebody
// signs in. Ticks that wait to be sent are kept elsewhere and stay.
if ("caches" in window) caches.keys().then((names) => names.forEach((name) => caches.delete(name)));
