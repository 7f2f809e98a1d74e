import { notParsed, parsed, type Parsed } from '../units/parsed';

/** So far above the greatest that was measured a forecast still counts (a choice of load.md A). */
export const BEYOND_MEASURED = 0.1;

const percent = (rho: number): string => `${Math.round(rho * 100)} %`;

/**
 * Whether a forecast of how busy a resource gets lies within what was measured of it (load.md A, calibration); shares from 0 to 1, `measuredRho`
 * the greatest there was. Reasons: load-not-measured.
 */
export const withinMeasured = ({
  resource,
  measuredRho,
  wantRho,
}: {
  resource: string;
  measuredRho: number;
  wantRho: number;
}): Parsed<number> =>
  wantRho <= measuredRho + BEYOND_MEASURED + 1e-12
    ? parsed(wantRho)
    : notParsed(
        'load-not-measured',
        `${resource} was never measured above ${percent(measuredRho)}; this forecast needs ${percent(wantRho)}.`,
      );
