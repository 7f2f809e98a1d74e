import { targetView } from '@/core/trace/target-view';
import { answer, json } from '@/server/http';

/** iSCSI targets, NVMe subsystems, networks and the name service. */
export const GET = () => answer(({ plant }) => json(targetView(plant.estate)));
