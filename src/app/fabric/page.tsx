import { FabricView } from '@/ui/fabric/fabric-view';

export default function FabricPage() {
  return <FabricView />;
}
