import { z } from 'zod';
import { changed } from '../estate/effects';
import { applications, type Application, type Host } from '../kinds/host';
import { draftHost, draftText, hostChoices } from '../operation/draft';
import { the } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';

const schema = z.object({
  host: z.string(),
  application: z.enum(applications).optional().describe('What runs on it and uses its volumes'),
  agent: flag.optional().describe('A small program there that pauses it for copies'),
});
type Params = z.output<typeof schema>;

export const applicationLabels: Record<Application, string> = {
  none: 'Nothing known',
  database: 'Database',
  files: 'File server',
  machines: 'Virtual machines',
  mail: 'Mail',
  other: 'Something else',
};

const words = ({ application, agent }: Pick<Host, 'application' | 'agent'>): string =>
  application === 'none'
    ? 'Nothing is known to run on it.'
    : `${applicationLabels[application]}, ${agent === 'none' ? 'and no agent that could pause it' : 'with an agent that pauses it'}.`;

export const hostApplication: OperationType<Params> = {
  kind: 'host.application',
  verb: 'Say what runs on a host',
  summary: 'The application of a host, and whether an agent there can pause it for copies.',
  schema,
  form: {
    columns: [4, 5, 6, 7],
    fields: { host: the.host, application: 'Application', agent: { label: 'Agent', control: 'select' } },
  },
  title: (p) => `Say what runs on ${p.host}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    if (!host) return refused(asks.refusals);
    const application = p.application ?? host.application;
    // One that is there stays as it answers: only the lab breaks it.
    const installed = host.agent === 'none' ? ('ready' as const) : host.agent;
    const agent = p.agent === undefined ? host.agent : p.agent ? installed : ('none' as const);
    if (application === host.application && agent === host.agent)
      return refused([
        {
          code: 'nothing-changes',
          field: 'application',
          subject: subjectOf('host', host),
          message: `${host.name} is said to be so already: ${words(host)}`,
          mend: 'Say what is to be otherwise, or leave it out.',
        },
      ]);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `${host.name}: ${words({ application, agent })}`.replace(/\.$/, ''),
      takes: SECOND,
      effects: [changed('host', host, { application, agent })],
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const fields: Foretold['fields'] = {
      host: { choices: hostChoices(view), says: host ? words(host) : '' },
      application: {
        choices: [
          { value: '', label: 'As it is' },
          ...applications.map((value) => ({ value, label: applicationLabels[value] })),
        ],
        says: 'Copies of its volumes can be made while it stands still.',
      },
      agent: {
        choices: [
          { value: '', label: 'As it is' },
          { value: 'true', label: 'Installed' },
          { value: 'false', label: 'None' },
        ],
        says:
          draftText(draft, 'agent') === 'false'
            ? 'Copies are crash-consistent from then on.'
            : 'It freezes the application for the moment of a cut, and thaws it.',
      },
    };
    return { fields };
  },
};
