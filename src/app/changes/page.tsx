import { ChangesView } from '@/ui/changes/changes-view';

export default function ChangesPage() {
  return <ChangesView />;
}
