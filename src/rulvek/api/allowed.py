"""Who may use which call: the whole of it, in one place. A call that is not here is refused to everyone."""

from collections.abc import Mapping

from rulvek.core.records.people import Deed

LOOK, MEASURE, PLAN, DESCRIBE = (Deed.LOOK,), (Deed.MEASURE,), (Deed.PLAN,), (Deed.DESCRIBE,)
ADMINISTER = (Deed.ADMINISTER,)
PUBLIC = frozenset(
    {"get_me", "sign_in", "sign_in_by_code", "make_first_account", "be_demo_person", "sign_out", "switch_off"}
    | {"get_health", "get_ready"}
)
"""Calls that need no account: coming in, going out, and switching off."""
ALLOWED: Mapping[str, tuple[Deed, ...]] = {
    # The line
    "get_line": LOOK,
    "find": LOOK,
    "get_model": LOOK,
    "get_unit": LOOK,
    "add_series": DESCRIBE,
    "add_model": DESCRIBE,
    "add_claim": DESCRIBE,
    "withdraw_claim": DESCRIBE,
    "receive_unit": MEASURE,
    "get_series_entry": LOOK,
    "change_series": DESCRIBE,
    "list_series_versions": LOOK,
    "get_model_entry": LOOK,
    "change_model": DESCRIBE,
    "list_model_versions": LOOK,
    "get_unit_entry": LOOK,
    "change_unit": MEASURE,
    "list_unit_versions": LOOK,
    "list_stand_ins": LOOK,
    "set_stand_in": DESCRIBE,
    # The bench
    "list_benches": LOOK,
    "get_now": LOOK,
    "get_bench": LOOK,
    "ask_for_bench": MEASURE,
    "answer_for_bench": MEASURE,
    "leave_bench": MEASURE,
    "hurry": MEASURE,
    # Campaigns
    "plan": LOOK,
    "list_campaigns": LOOK,
    "get_campaign": LOOK,
    "get_sheet": LOOK,
    "campaign_events": LOOK,
    "create_campaign": PLAN,
    "choose_attempt": PLAN,
    "prepare": MEASURE,
    "start_attempt": MEASURE,
    # Evidence
    "list_checks": LOOK,
    "list_attempts": LOOK,
    "get_attempt": LOOK,
    "get_steps": LOOK,
    "get_wave": LOOK,
    "get_spectrum": LOOK,
    "get_capture": LOOK,
    "get_original": LOOK,
    "overrule": (Deed.PLAN, Deed.SIGN),  # by the weight of what is set aside, which the call itself looks at
    "withdraw_reading": PLAN,
    "remark": MEASURE,
    "add_second": MEASURE,
    # Gear
    "get_gear": LOOK,
    "enter_instrument": PLAN,
    # Readings from outside
    "preview": LOOK,
    "preview_sheet": LOOK,
    "keep": MEASURE,
    "keep_sheet": MEASURE,
    "send_recording": MEASURE,
    "get_recording": MEASURE,
    "read_recording": MEASURE,
    "stop_recording": MEASURE,
    "let_recording_go": MEASURE,
    "keep_recording": MEASURE,
    "inspect_table": LOOK,
    "rehearse_table": LOOK,
    "keep_table": MEASURE,
    # The desk
    "list_calculators": LOOK,
    "compose_load": LOOK,
    "list_bursts": LOOK,
    "save_tone": LOOK,
    "work_out": LOOK,
    # People
    "list_my_sessions": LOOK,
    "end_my_session": LOOK,
    "change_my_password": LOOK,
    "list_people": LOOK,
    "add_person": ADMINISTER,
    "set_roles": ADMINISTER,
    "close_account": ADMINISTER,
    "open_account": ADMINISTER,
    "give_code": ADMINISTER,
    "list_tokens": ADMINISTER,
    "give_token": ADMINISTER,
    "end_token": ADMINISTER,
    # The house
    "list_backups": ADMINISTER,
    "take_backup": ADMINISTER,
}
