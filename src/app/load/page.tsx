import { LoadView } from '@/ui/load/load-view';

export default function LoadPage() {
  return <LoadView />;
}
