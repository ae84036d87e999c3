// The way to a page, as it stands over it.
import type { CampaignView, UnitView } from '../api/types'
import type { Step } from '../kit/title'

/** Series / model / unit / what is done there. */
export const unitTrail = (unit: UnitView, here?: string): Step[] => [
  { name: unit.model.series_name },
  { name: unit.model.name, to: `/models/${unit.model.id}` },
  ...(here ? [{ name: unit.unit.serial, to: `/units/${unit.unit.id}` }, { name: here }] : [{ name: unit.unit.serial }]),
]

/** Series / model / unit / campaign / what is done there. */
export const campaignTrail = (campaign: CampaignView, here?: string): Step[] => [
  { name: campaign.series_name },
  { name: campaign.model_name, to: `/models/${campaign.model_id}` },
  { name: campaign.unit_serial, to: `/units/${campaign.unit_id}` },
  ...(here
    ? [{ name: `Campaign ${campaign.id}`, to: `/campaigns/${campaign.id}` }, { name: here }]
    : [{ name: `Campaign ${campaign.id}` }]),
]
