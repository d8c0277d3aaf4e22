//! Any text as a value of every kind, and for what is suspicious about it.

use tidy_gate_core::value::{Date, DatePattern, Number, email, serial, sheet_error, suspicion, truth};

pub(crate) fn run(data: &[u8]) {
    let Ok(text) = std::str::from_utf8(data) else { return };
    let today = Date::new(2026, 11, 25).unwrap();
    if let Some((pattern, value)) = text.split_once('\n')
        && let Ok(pattern) = DatePattern::new(pattern)
    {
        let _ = pattern.read(value, today);
        let _ = pattern.write(today);
    }
    if let Some(number) = Number::decimal(text) {
        assert_eq!(Number::decimal(&number.to_string()), Some(number.clone()));
    }
    let _ =
        (Number::integer(text), truth::read(text), email::judge(text), serial::read(text), Date::iso(text));
    let _ = (sheet_error::is_one(text), suspicion::has_stray_space(text), suspicion::is_formula_like(text));
    let _ = (suspicion::lookalike(text), suspicion::control(text), suspicion::is_placeholder(text));
    let _ = (suspicion::has_lost_precision(text), suspicion::invisible(text));
    assert!(suspicion::without_invisible(text).len() <= text.len());
    if let Some(mended) = suspicion::before_double_encoding(text) {
        assert!(mended.len() < text.len());
    }
}
