import { expect, type APIRequestContext, type Page } from './test';

/** Sets the clock: tests move time themselves. */
export async function setClock(request: APIRequestContext, speed: number): Promise<void> {
  expect((await request.post('/api/v1/lab/clock', { data: { speed } })).ok()).toBe(true);
}

export async function advance(request: APIRequestContext, seconds: number): Promise<void> {
  expect((await request.post('/api/v1/lab/advance', { data: { seconds } })).ok()).toBe(true);
}

/** Chooses from a drop-down by the words of the choice. */
export async function choose(page: Page, label: string, option: string | RegExp): Promise<void> {
  await page.getByLabel(label, { exact: true }).click();
  await page.getByRole('option', { name: option }).click();
}

/** Adds the open sheet to the draft and waits until it is put away. */
export async function addToDraft(page: Page): Promise<void> {
  const button = page.getByRole('button', { name: 'Add to draft' });
  await expect(button).toHaveAttribute('aria-disabled', 'false');
  await button.click();
  // Until it is added, the button says so; then its sheet goes.
  await expect(page.getByRole('button', { name: /^(Add to draft|Adding …)$/ })).toBeHidden();
}

/** Until a run has begun: the clock stands, so that its first step is still at work. */
export const begun = (page: Page): Promise<void> =>
  expect(page.getByRole('list', { name: 'Steps' }).getByText('at work')).toHaveCount(1);

/** Runs the draft in the tray, and lets the lab's time pass until it is done. */
export async function runDraft(page: Page, request: APIRequestContext, seconds = 120): Promise<void> {
  await page.getByRole('button', { name: 'Review' }).click();
  await page.getByRole('button', { name: 'Run', exact: true }).click();
  await expect
    .poll(async () => {
      await advance(request, seconds);
      const { items } = (await (await request.get('/api/v1/changes')).json()) as { items: { state: string }[] };
      return items[0]!.state;
    })
    .toBe('done');
  await emptyTray(request);
}

/** An empty tray: the next operation begins a draft of its own. */
export async function emptyTray(request: APIRequestContext): Promise<void> {
  expect((await request.put('/api/v1/tray', { data: { change: null } })).ok()).toBe(true);
}

/** Prepares and runs operations through the API, and lets the lab's time pass until they are done. */
export async function carryOut(request: APIRequestContext, title: string, operations: object[]): Promise<string> {
  const prepared = await request.post('/api/v1/changes', { data: { title, operations } });
  expect(prepared.status()).toBe(201);
  const { id } = (await prepared.json()) as { id: string };
  expect((await request.post(`/api/v1/changes/${id}/run`)).status()).toBe(202);
  await advance(request, 600);
  const change = (await (await request.get(`/api/v1/changes/${id}`)).json()) as {
    state: string;
    problem: { message: string } | null;
  };
  expect(change.problem).toBeNull();
  expect(change.state).toBe('done');
  await emptyTray(request);
  return id;
}
