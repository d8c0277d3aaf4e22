/// Units as they stand below headings: those of the SI and beside it, and a few of the office.
const UNITS: [&str; 92] = [
    "mm", "cm", "dm", "m", "km", "in", "inch", "inches", "ft", "foot", "feet", "yd", "mi", "mile", "miles",
    "mm²", "cm²", "m²", "km²", "mm2", "cm2", "m2", "km2", "sqm", "sq m", "sq ft", "ha", "acre", "acres",
    "mm³", "cm³", "m³", "m3", "cm3", "ml", "cl", "dl", "l", "litre", "litres", "liter", "liters", "gal",
    "mg", "g", "kg", "t", "tonne", "tonnes", "lb", "lbs", "oz", "st", "s", "sec", "min", "h", "hr", "hrs",
    "hours", "d", "day", "days", "week", "weeks", "month", "months", "year", "years", "yr", "yrs", "a", "%",
    "‰", "°", "°c", "°f", "deg", "degrees", "k", "pcs", "no.", "nr", "n", "count", "€", "£", "$", "eur",
    "gbp", "usd", "px",
];

/// Whether a cell is a known unit, or a word in brackets.
pub(super) fn is_unit(cell: &str) -> bool {
    let in_brackets = [('(', ')'), ('[', ']'), ('<', '>')].iter().any(|&(open, close)| {
        let inner = cell.strip_prefix(open).and_then(|rest| rest.strip_suffix(close)).unwrap_or_default();
        (1..=30).contains(&inner.chars().count()) && !inner.contains([open, close])
    });
    in_brackets || UNITS.contains(&cell.to_lowercase().as_str())
}
