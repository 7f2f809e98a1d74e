import { CapacityView } from '@/ui/capacity/capacity-view';

export default function CapacityPage() {
  return <CapacityView />;
}
