/** Brings the estate to life with the server, so that the lab's clock runs before the first page is asked for. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  const { startOrEnd } = await import('./server/start');
  startOrEnd();
}
