import { ProtectionView } from '@/ui/protection/protection-view';

export default function ProtectionPage() {
  return <ProtectionView />;
}
