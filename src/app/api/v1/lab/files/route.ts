import { deleteFilesBody } from '@/server/bodies';
import { answer, bodyJson, json } from '@/server/http';
import { freeFiles } from '@/server/lab';

export const POST = (request: Request) =>
  answer(async ({ plant }) => {
    const { host, device, size } = await bodyJson(request, deleteFilesBody);
    return json(freeFiles(plant, host, device, size));
  });
