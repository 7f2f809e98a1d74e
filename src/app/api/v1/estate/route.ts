import { exportEstate, importEstate } from '@/server/estate-transfer';
import { answer, bodyText, ESTATE_BODY, isYaml, json, text } from '@/server/http';
import { writeEstateYaml } from '@/formats/estate-file';

export const GET = (request: Request) =>
  answer(({ plant }) => {
    const yaml = new URL(request.url).searchParams.get('format') === 'yaml';
    const document = exportEstate(plant);
    return yaml
      ? text(writeEstateYaml(document), 'application/yaml', 'estate.yaml')
      : text(JSON.stringify(document), 'application/json', 'estate.json');
  });

export const POST = (request: Request) =>
  answer(async ({ plant }) => json(importEstate(plant, await bodyText(request, ESTATE_BODY), isYaml(request)), 201));
