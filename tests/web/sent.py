"""What the forms of the pages send, as they stand in the demo house."""

from aldea.demo.recorded import END_MS

TUNING = {
    "on": "62",
    "off": "56",
    "min_on_min": "5",
    "min_off_min": "5",
    "fault_min": "15",
    "fault_state": "off",
    "return_policy": "follow_rules",
    "return_delay_s": "60",
    "return_reason": "",
    "window_h": "24",
    "window_end": str(END_MS),
    "window_at": str(END_MS),
}
READ_OPTIONS = {
    "delimiter": ",",
    "decimal": ".",
    "header_rows": "1",
    "time_column": "0",
    "value_column": "1",
    "time_kind": "epoch_s",
    "local_format": "%Y-%m-%d %H:%M:%S",
    "zone": "Europe/Madrid",
}
