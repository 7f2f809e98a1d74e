import { trayBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';
import type { Changes } from '@/server/changes';

const tray = async (changes: Changes) => {
  const id = changes.tray();
  return json({ change: id ? await changes.view(id) : null });
};

export const GET = () => answer(({ changes }) => tray(changes));

export const PUT = (request: Request) =>
  answer(async ({ changes }) => {
    changes.setTray((await bodyJson(request, trayBody)).change);
    return tray(changes);
  });
