import { FindingsView } from '@/ui/findings/findings-view';

export default function FindingsPage() {
  return <FindingsView />;
}
