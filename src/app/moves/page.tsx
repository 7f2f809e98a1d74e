import { MovesView } from '@/ui/moves/moves-view';

export default function MovesPage() {
  return <MovesView />;
}
