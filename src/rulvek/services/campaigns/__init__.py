"""Campaigns: planned, put on record, followed, judged; the evidence behind each figure."""

from rulvek.services.campaigns.campaigns import Campaigns, save_campaign, written_campaign
from rulvek.services.campaigns.evidence_pages import EvidencePages
from rulvek.services.campaigns.planner import Planner, plan_of
from rulvek.services.campaigns.settling import Settling
from rulvek.services.campaigns.today import Today

__all__ = ["Campaigns", "EvidencePages", "Planner", "Settling", "Today", "plan_of", "save_campaign", "written_campaign"]
