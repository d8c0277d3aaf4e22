//! Words for a total.

/// Words for a total, in the languages spreadsheets are kept in.
const TOTALS: [&str; 28] = [
    "total",
    "totals",
    "totaal",
    "totale",
    "totali",
    "totales",
    "totaux",
    "totais",
    "toplam",
    "sum",
    "sums",
    "summe",
    "summa",
    "somme",
    "suma",
    "soma",
    "gesamt",
    "gesamtsumme",
    "insgesamt",
    "razem",
    "celkem",
    "összesen",
    "yhteensä",
    "итого",
    "всего",
    "σύνολο",
    "合計",
    "總計",
];

/// Whether a cell is a word for a total, alone or with another beside it (`Grand total`, `Total:`).
pub(super) fn is_total_word(cell: &str) -> bool {
    let lower = cell.to_lowercase();
    let mut words = lower.split(|c: char| !c.is_alphabetic()).filter(|word| !word.is_empty());
    let few = lower.split_whitespace().count() <= 3 && !lower.bytes().any(|byte| byte.is_ascii_digit());
    few && words.any(|word| TOTALS.contains(&word))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn totals_are_known_by_word() {
        for word in ["Total", "TOTAL:", "Grand total", "Summe", "Total général", "Итого", "Sub-total"]
        {
            assert!(is_total_word(word), "{word}");
        }
        for word in ["", "Totalled", "Total of ward 7", "Sumach", "12", "the total of all of them"] {
            assert!(!is_total_word(word), "{word}");
        }
    }
}
