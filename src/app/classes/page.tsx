import { ClassesView } from '@/ui/classes/classes-view';

export default function ClassesPage() {
  return <ClassesView />;
}
