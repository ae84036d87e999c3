// What an instrument of the register reads, as people say it.
export const ROLES = {
  output: 'Output volts',
  supply: 'Supply volts',
  clamp: 'Supply current',
  loads: 'Loads',
} as const
