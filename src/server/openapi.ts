import { z } from 'zod';
import { operationTypes } from '@/core/change/registry';
import { recipeTypes } from '@/core/change/recipes';
import { kinds, rowSchemas } from '@/core/estate/entities';
import { estateDocument } from '@/core/estate/document';
import { changeDocument } from '@/formats/change-file';
import { placeBody } from './classes';
import { effectBody, proposeBody, queueBody, simulateBody, whatIfLoadBody } from './load-bodies';
import {
  answerBody,
  secondBody,
  approveBody,
  advanceBody,
  changeBody,
  clockBody,
  faultBody,
  formBody,
  previewBody,
  reviseBody,
  stockBody,
  loginTestBody,
  trafficBody,
  deleteFilesBody,
  fileBody,
  ioBody,
  contentBody,
  trayBody,
} from './bodies';
import { ref } from './openapi-parts';
import { paths } from './openapi-paths';

const schemaOf = (schema: z.ZodType): object => {
  const { $schema: _dialect, ...rest } = z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' });
  return rest;
};
/** The description of the API, built from the same schemas that check requests. */
export function openApi(): object {
  return {
    openapi: '3.1.0',
    info: {
      title: 'Trabes',
      version: '1',
      description:
        'Block storage from the drives to the host’s disk, on simulated arrays. Every refusal names the thing, the reason and the mend.',
    },
    servers: [{ url: '/api/v1' }],
    security: [{}, { token: [] }],
    paths: paths(),
    components: {
      securitySchemes: {
        token: { type: 'http', scheme: 'bearer', description: 'Where the server was started with TRABES_TOKEN' },
      },
      schemas: {
        Problem: {
          type: 'object',
          required: ['type', 'title', 'status', 'detail', 'code'],
          properties: {
            type: { type: 'string' },
            title: { type: 'string' },
            status: { type: 'integer' },
            detail: { type: 'string' },
            code: { type: 'string' },
            mend: { type: 'string' },
            refusals: { type: 'array', items: ref('Refusal') },
          },
        },
        Refusal: {
          type: 'object',
          required: ['code', 'message', 'subject', 'mend'],
          properties: {
            code: { type: 'string' },
            message: { type: 'string' },
            mend: { type: 'string' },
            field: { type: 'string' },
            operation: { type: 'integer' },
            offer: {
              description: 'The operation that would mend it, filled in as far as it is known',
              type: 'object',
              properties: { label: { type: 'string' }, do: { type: 'string' }, params: { type: 'object' } },
            },
            subject: {
              type: 'object',
              properties: { kind: { type: 'string' }, id: { type: 'string' }, name: { type: 'string' } },
            },
          },
        },
        Health: {
          type: 'object',
          properties: {
            at: { enum: ['work', 'fault'] },
            version: { type: 'integer' },
            now: { type: 'number' },
            troubles: {
              type: 'array',
              items: {
                type: 'object',
                properties: {
                  what: { type: 'string' },
                  message: { type: 'string' },
                  mend: { type: 'string' },
                  since: { type: 'number' },
                },
              },
            },
          },
        },
        Estate: schemaOf(estateDocument),
        ChangeFile: schemaOf(changeDocument),
        ChangeBody: schemaOf(changeBody),
        ReviseBody: schemaOf(reviseBody),
        ApproveBody: schemaOf(approveBody),
        AnswerBody: schemaOf(answerBody),
        SecondBody: schemaOf(secondBody),
        PreviewBody: schemaOf(previewBody),
        FormBody: schemaOf(formBody),
        TrayBody: schemaOf(trayBody),
        ClockBody: schemaOf(clockBody),
        AdvanceBody: schemaOf(advanceBody),
        FaultBody: schemaOf(faultBody),
        LoginTestBody: schemaOf(loginTestBody),
        EffectBody: schemaOf(effectBody),
        ProposeBody: schemaOf(proposeBody),
        QueueBody: schemaOf(queueBody),
        SimulateBody: schemaOf(simulateBody),
        WhatIfLoadBody: schemaOf(whatIfLoadBody),
        PlaceBody: schemaOf(placeBody),
        TrafficBody: schemaOf(trafficBody),
        DeleteFilesBody: schemaOf(deleteFilesBody),
        FileBody: schemaOf(fileBody),
        IoBody: schemaOf(ioBody),
        ContentBody: schemaOf(contentBody),
        StockBody: schemaOf(stockBody),
        ...Object.fromEntries(kinds.map((kind) => [kind, schemaOf(rowSchemas[kind])])),
        ...Object.fromEntries(
          [...recipeTypes, ...operationTypes].map((type) => [
            type.kind,
            { description: type.summary, ...schemaOf(type.schema) },
          ]),
        ),
      },
    },
  };
}
