// What roles are called, and what each is for; what they allow is the server's.
import type { Role } from '../../api/types'

export const ROLE_WORDS: Record<Role, string> = {
  viewer: 'Viewer',
  technician: 'Technician',
  engineer: 'Engineer',
  reviewer: 'Reviewer',
  manager: 'Manager',
  admin: 'Admin',
}

export const ROLE_MEANS: Record<Role, string> = {
  viewer: 'looks at everything and takes files along',
  technician: 'receives units, conducts planned runs, puts readings on record',
  engineer: 'plans, chooses, withdraws; keeps the gear and the line; proposes ratings',
  reviewer: 'signs what others propose; sets invalid findings aside',
  manager: 'keeps the line and its claims; publishes ratings',
  admin: 'looks after accounts, tokens and backups',
}

export const ROLES = Object.keys(ROLE_WORDS) as Role[]
