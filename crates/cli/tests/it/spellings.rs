//! What each kind accepts and refuses, as the program itself says; the table in `docs/record-schema.md` is made of it.

use crate::docs::current_part;
use crate::tool::Folder;

/// A kind with its options, what it accepts with the value in the target's form, what it refuses with the code.
struct Case {
    title: &'static str,
    /// The field's keys.
    field: &'static str,
    /// The plan's keys of [read].
    read: &'static str,
    accepted: &'static [(&'static str, &'static str)],
    refused: &'static [(&'static str, &'static str)],
}

const fn case(
    title: &'static str,
    field: &'static str,
    accepted: &'static [(&'static str, &'static str)],
    refused: &'static [(&'static str, &'static str)],
) -> Case {
    Case { title, field, read: "", accepted, refused }
}

const CASES: &[Case] = &[
    case(
        "text",
        "kind = \"text\"",
        &[
            ("Mill Lane", "Mill Lane"),
            (" Mill Lane ", "Mill Lane"),
            ("007", "007"),
            ("N/A", "N/A"),
            ("Ångström", "Ångström"),
        ],
        &[],
    ),
    case(
        "text, `length = { min = 2, max = 8 }`",
        "kind = \"text\"\nlength = { min = 2, max = 8 }",
        &[("W7", "W7"), ("Weißdorn", "Weißdorn")],
        &[("W", "text-too-short"), ("Weißdornhecke", "text-too-long")],
    ),
    case(
        "text, `pattern = \"HT-[0-9]{4}\"`, `case = \"upper\"`",
        "kind = \"text\"\npattern = \"HT-[0-9]{4}\"\ncase = \"upper\"",
        &[("HT-0042", "HT-0042"), (" HT-0042", "HT-0042")],
        &[
            ("ht-0042", "case-wrong"),
            ("HT-42", "pattern-broken"),
            ("HT-00421", "pattern-broken"),
            ("xHT-0042", "pattern-broken"),
        ],
    ),
    case(
        "integer",
        "kind = \"integer\"",
        &[
            ("42", "42"),
            ("007", "7"),
            ("+5", "5"),
            ("-5", "-5"),
            ("5-", "-5"),
            ("(5)", "-5"),
            ("1,000", "1000"),
            ("1.000", "1000"),
            ("12345678901234567890", "12345678901234567890"),
            ("1 234", "1234"),
            ("-12\u{2019}345", "-12345"),
        ],
        &[
            ("4.0", "integer-bad"),
            ("1e3", "integer-bad"),
            ("4 trees", "integer-bad"),
            ("IV", "integer-bad"),
            ("0x2A", "integer-bad"),
            ("½", "integer-bad"),
            ("--5", "integer-bad"),
            ("12 34", "integer-bad"),
            ("0 123", "integer-bad"),
        ],
    ),
    case(
        "integer, `range = { min = 1, max = 40 }`",
        "kind = \"integer\"\nrange = { min = 1, max = 40 }",
        &[("1", "1"), ("40", "40"), ("0040", "40")],
        &[("0", "out-of-range"), ("41", "out-of-range"), ("-1", "out-of-range")],
    ),
    case(
        "decimal",
        "kind = \"decimal\"",
        &[
            ("12.5", "12.5"),
            (".5", "0.5"),
            ("12.", "12"),
            ("-0.50", "-0.5"),
            ("+3", "3"),
            ("7.25-", "-7.25"),
            ("(7.25)", "-7.25"),
            ("0.1234567890123456789", "0.1234567890123456789"),
            ("1 234.5", "1234.5"),
            ("1\u{A0}234\u{A0}567", "1234567"),
            ("1'234.50", "1234.5"),
        ],
        &[
            ("12.5 cm", "decimal-bad"),
            ("1.2.3", "decimal-bad"),
            ("tall", "decimal-bad"),
            ("12.5 %", "decimal-bad"),
            ("€ 12.50", "decimal-bad"),
            ("NaN", "decimal-bad"),
            ("∞", "decimal-bad"),
            ("1 23", "decimal-bad"),
            ("1 234'567", "decimal-bad"),
        ],
    ),
    case(
        "decimal, `digits = { before = 4, after = 1 }`",
        "kind = \"decimal\"\ndigits = { before = 4, after = 1 }",
        &[("1234.5", "1234.5"), ("0001234.50", "1234.5")],
        &[("12345", "digits-too-many"), ("1.25", "digits-too-many")],
    ),
    case(
        "decimal, in a column of commas",
        "kind = \"decimal\"",
        &[("12,5", "12.5"), ("1.234,5", "1234.5"), ("1 234,5", "1234.5"), ("0,25", "0.25")],
        &[("12,5,3", "decimal-bad")],
    ),
    Case {
        title: "decimal, with `decimal_mark = \",\"` and `group_mark = \".\"` in the plan",
        field: "kind = \"decimal\"",
        read: "decimal_mark = \",\"\ngroup_mark = \".\"",
        accepted: &[("12,5", "12.5"), ("1.234", "1234"), ("1.234.567,8", "1234567.8")],
        refused: &[("12.5", "decimal-mark"), ("1.23,4", "decimal-bad")],
    },
    Case {
        title: "decimal, with `group_mark = \" \"` in the plan",
        field: "kind = \"decimal\"",
        read: "decimal_mark = \",\"\ngroup_mark = \" \"",
        accepted: &[("1 234,5", "1234.5"), ("1\u{202F}234,5", "1234.5"), ("1\u{A0}234", "1234")],
        refused: &[("12 34", "decimal-bad")],
    },
    case(
        "decimal, `percent = true`",
        "kind = \"decimal\"\npercent = true",
        &[("12.5 %", "12.5"), ("12.5%", "12.5"), ("12.5", "12.5"), ("-3 %", "-3")],
        &[("% 12", "decimal-bad"), ("12.5 %%", "decimal-bad"), ("12.5 ‰", "decimal-bad")],
    ),
    case(
        "decimal, `currency = [\"EUR\", \"€\"]`",
        "kind = \"decimal\"\ncurrency = [\"EUR\", \"€\"]",
        &[
            ("€ 12.50", "12.5"),
            ("12.50 €", "12.5"),
            ("EUR 12.50", "12.5"),
            ("12.50EUR", "12.5"),
            ("12.50", "12.5"),
        ],
        &[("£ 12.50", "decimal-bad"), ("12.50 euros", "decimal-bad")],
    ),
    case(
        "boolean",
        "kind = \"boolean\"",
        &[
            ("true", "true"),
            ("Yes", "true"),
            ("y", "true"),
            ("1", "true"),
            ("FALSE", "false"),
            ("No", "false"),
            ("n", "false"),
            ("0", "false"),
        ],
        &[
            ("maybe", "boolean-bad"),
            ("2", "boolean-bad"),
            ("x", "boolean-bad"),
            ("ja", "boolean-bad"),
            ("✓", "boolean-bad"),
        ],
    ),
    Case {
        title: "boolean, with `true = [\"ja\", \"x\"]` and `false = [\"nein\"]` in the plan",
        field: "kind = \"boolean\"",
        read: "true = [\"ja\", \"x\"]\nfalse = [\"nein\"]",
        accepted: &[("Ja", "true"), ("X", "true"), ("NEIN", "false")],
        refused: &[("yes", "boolean-bad"), ("1", "boolean-bad")],
    },
    case(
        "date, in a column that shows day before month",
        "kind = \"date\"",
        &[
            ("2023-12-31", "2023-12-31"),
            ("31/12/2023", "2023-12-31"),
            ("1.2.2023", "2023-02-01"),
            ("3 Mar 2023", "2023-03-03"),
            ("March 3, 2023", "2023-03-03"),
            ("31-12-2023 00:00", "2023-12-31"),
        ],
        &[
            ("31/06/2023", "date-impossible"),
            ("31/12/23", "date-bad"),
            ("45291", "date-as-number"),
            ("2023", "date-bad"),
            ("31/12/2023 14:30", "date-bad"),
            ("spring 1987", "date-bad"),
        ],
    ),
    case(
        "date, in a column that shows neither",
        "kind = \"date\"",
        &[("2023-12-31", "2023-12-31"), ("5/5/2023", "2023-05-05")],
        &[("03/04/2023", "date-unclear")],
    ),
    case(
        "date, `dates = [\"dd/MM/yyyy\"]`",
        "kind = \"date\"\ndates = [\"dd/MM/yyyy\"]",
        &[("31/12/2023", "31/12/2023"), ("1/2/2023", "01/02/2023")],
        &[("2023-12-31", "date-bad"), ("12/31/2023", "date-bad"), ("31.12.2023", "date-bad")],
    ),
    Case {
        title: "date, with `dates = [\"d. MMMM yyyy\"]` and `language = \"de\"` in the plan",
        field: "kind = \"date\"",
        read: "dates = [\"d. MMMM yyyy\"]\nlanguage = \"de\"",
        accepted: &[
            ("3. März 2023", "2023-03-03"),
            ("3. Okt. 2023", "2023-10-03"),
            ("2023-03-03", "2023-03-03"),
        ],
        refused: &[("3. March 2023", "date-bad"), ("3.3.2023", "date-bad")],
    },
    case(
        "date, `range = { min = \"1850-01-01\", max = \"today\" }`",
        "kind = \"date\"\nrange = { min = \"1850-01-01\", max = \"today\" }",
        &[("1850-01-01", "1850-01-01"), ("2026-11-25", "2026-11-25")],
        &[("1849-12-31", "out-of-range"), ("2026-11-26", "out-of-range")],
    ),
    case(
        "time",
        "kind = \"time\"",
        &[
            ("9:30", "09:30:00"),
            ("09:30:15", "09:30:15"),
            ("23:59:59.5", "23:59:59.5"),
            ("00:00", "00:00:00"),
        ],
        &[
            ("24:00", "time-bad"),
            ("9:5", "time-bad"),
            ("9.30", "time-bad"),
            ("9:30 pm", "time-bad"),
            ("noon", "time-bad"),
        ],
    ),
    case(
        "time, `times = [\"h:mm a\"]`",
        "kind = \"time\"\ntimes = [\"h:mm a\"]",
        &[("9:30 pm", "9:30 PM"), ("12:05 AM", "12:05 AM"), ("9:30pm", "9:30 PM")],
        &[("21:30", "time-bad"), ("13:00 pm", "time-bad")],
    ),
    case(
        "datetime",
        "kind = \"datetime\"",
        &[
            ("2024-03-09T09:30:00Z", "2024-03-09T09:30:00Z"),
            ("2024-03-09 09:30", "2024-03-09T09:30:00"),
            ("2024-03-09T09:30+01:00", "2024-03-09T09:30:00+01:00"),
            ("2024-03-09", "2024-03-09T00:00:00"),
        ],
        &[
            ("2024-03-09 25:00", "time-bad"),
            ("2024-02-30T09:30", "date-bad"),
            ("09/03/2024 09:30", "date-bad"),
            ("2024-03-09T09:30+25:00", "time-bad"),
        ],
    ),
    Case {
        title: "datetime, with `dates = [\"dd/MM/yyyy HH:mm\"]` and `zone = \"Europe/London\"` in the plan",
        field: "kind = \"datetime\"",
        read: "dates = [\"dd/MM/yyyy HH:mm\"]\nzone = \"Europe/London\"",
        accepted: &[
            ("09/07/2024 9:30", "2024-07-09T09:30:00+01:00"),
            ("2024-01-09T09:30", "2024-01-09T09:30:00Z"),
        ],
        refused: &[("31/03/2024 01:30", "time-bad"), ("09/07/2024", "time-bad")],
    },
    case(
        "duration",
        "kind = \"duration\"",
        &[
            ("2:30", "PT2H30M"),
            ("2:30:00", "PT2H30M"),
            ("26:00", "P1DT2H"),
            ("PT150M", "PT2H30M"),
            ("P10Y", "P10Y"),
            ("P2W", "P14D"),
            ("0:00", "PT0S"),
        ],
        &[
            ("90", "time-bad"),
            ("90 min", "time-bad"),
            ("2:75", "time-bad"),
            ("-2:30", "time-bad"),
            ("P", "time-bad"),
        ],
    ),
    case(
        "duration, `unit = \"min\"`",
        "kind = \"duration\"\nunit = \"min\"",
        &[
            ("90", "PT1H30M"),
            ("90 min", "PT1H30M"),
            ("1.5 h", "PT1H30M"),
            ("1 h 30 min", "PT1H30M"),
            ("2:30", "PT2H30M"),
            ("3 weeks", "P21D"),
        ],
        &[("1,5 h", "time-bad"), ("ninety", "time-bad"), ("90 km", "time-bad")],
    ),
    case(
        "duration, `range = { min = \"0:10\", max = \"PT4H\" }`",
        "kind = \"duration\"\nrange = { min = \"0:10\", max = \"PT4H\" }",
        &[("0:10", "PT10M"), ("4:00", "PT4H")],
        &[("0:09:59", "out-of-range"), ("P1D", "out-of-range")],
    ),
    case(
        "picklist",
        "kind = \"picklist\"\npicklist = \"condition\"",
        &[("G", "G"), ("Good", "G"), ("good", "G"), ("  GOOD ", "G"), ("OK", "G"), ("Not  assessed", "X1")],
        &[("Goood", "off-list"), ("G.", "off-list"), ("R", "off-list-retired"), ("G;E", "off-list")],
    ),
    case(
        "picklist, `exact = true`",
        "kind = \"picklist\"\npicklist = \"strict\"",
        &[("G", "G")],
        &[("g", "off-list"), ("Good", "off-list")],
    ),
    case(
        "picklist, `many = { separator = \";\", max = 3 }`",
        "kind = \"picklist\"\npicklist = \"condition\"\nmany = { separator = \";\", max = 3 }",
        &[("G", "G"), ("G;E", "G;E"), ("good; Excellent", "G;E")],
        &[
            ("G, E", "list-separator"),
            ("G;G", "list-repeated"),
            ("G;E;P;X1", "list-too-many"),
            ("G;Z", "off-list"),
        ],
    ),
    case(
        "picklist, `standard = \"iso-3166-1\"`",
        "kind = \"picklist\"\npicklist = \"country\"",
        &[("DE", "DE"), ("Germany", "DE"), ("united kingdom", "GB"), ("UK", "GB"), ("USA", "US")],
        &[("Harrowmere", "off-list"), ("ZZ", "off-list")],
    ),
    case(
        "picklist, `standard = \"iso-4217\"`",
        "kind = \"picklist\"\npicklist = \"currency\"",
        &[("EUR", "EUR"), ("Euro", "EUR"), ("gbp", "GBP")],
        &[("EURO NOTE", "off-list"), ("XYZ", "off-list")],
    ),
    case(
        "picklist, `standard = \"iso-639-1\"`",
        "kind = \"picklist\"\npicklist = \"language\"",
        &[("de", "de"), ("German", "de"), ("FR", "fr")],
        &[("Harrowmerian", "off-list"), ("zz", "off-list")],
    ),
    case(
        "reference, to sites W07-MILL and W07-ORCH",
        "kind = \"reference\"\nto = \"site\"",
        &[("W07-MILL", "W07-MILL"), (" W07-ORCH", "W07-ORCH")],
        &[("w07-mill", "reference-unknown"), ("W09-KILN", "reference-unknown")],
    ),
    case(
        "email",
        "kind = \"email\"",
        &[
            ("j.marsh@trees.example", "j.marsh@trees.example"),
            ("J.Marsh+ward7@Trees.Example", "J.Marsh+ward7@Trees.Example"),
        ],
        &[
            ("j.marsh", "email-bad"),
            ("j.marsh@trees", "email-bad"),
            ("j marsh@trees.example", "email-bad"),
            ("a@b.example; c@d.example", "email-bad"),
            ("Marsh <j@trees.example>", "email-bad"),
        ],
    ),
    case(
        "phone",
        "kind = \"phone\"",
        &[
            ("+44 20 7946 0018", "+442079460018"),
            ("+442079460018", "+442079460018"),
            ("+44 (0)20 7946 0018", "+442079460018"),
        ],
        &[("020 7946 0018", "phone-bad"), ("+44 123", "phone-bad"), ("ask Jo", "phone-bad")],
    ),
    case(
        "phone, `region = \"GB\"`",
        "kind = \"phone\"\nregion = \"GB\"",
        &[
            ("020 7946 0018", "+442079460018"),
            ("(020) 7946-0018", "+442079460018"),
            ("+49 30 901820", "+4930901820"),
        ],
        &[("7946 0018", "phone-bad"), ("020 7946", "phone-bad")],
    ),
    case(
        "url",
        "kind = \"url\"",
        &[
            ("https://trees.example/ht/42?v=1", "https://trees.example/ht/42?v=1"),
            ("http://trees.example", "http://trees.example"),
        ],
        &[
            ("trees.example", "url-bad"),
            ("ftp://trees.example", "url-bad"),
            ("https://", "url-bad"),
            ("https://trees.example/a b", "url-bad"),
        ],
    ),
    case(
        "uuid",
        "kind = \"uuid\"",
        &[("123E4567-e89b-12d3-a456-426614174000", "123e4567-e89b-12d3-a456-426614174000")],
        &[
            ("123e4567e89b12d3a456426614174000", "uuid-bad"),
            ("{123e4567-e89b-12d3-a456-426614174000}", "uuid-bad"),
            ("123e4567-e89b-12d3-a456-42661417400g", "uuid-bad"),
        ],
    ),
];

const LISTS: &str = "\n[picklist.condition]\nvalues = [{ code = \"G\", label = \"Good\", also = [\"OK\"] }, { code = \"E\", label = \"Excellent\" }, \
    { code = \"P\", label = \"Poor\" }, { code = \"X1\", label = \"Not assessed\" }, { code = \"R\", label = \"Ruined\", retired = true }]\n\
    [picklist.strict]\nexact = true\nvalues = [{ code = \"G\", label = \"Good\" }]\n\
    [picklist.country]\nstandard = \"iso-3166-1\"\n[picklist.currency]\nstandard = \"iso-4217\"\n[picklist.language]\nstandard = \"iso-639-1\"\n";

impl Case {
    /// What became of each text: the value in the target's form, or the code of its stop.
    fn outcomes(&self) -> Vec<(String, String)> {
        let texts: Vec<&str> = self.accepted.iter().chain(self.refused).map(|pair| pair.0).collect();
        let folder = Folder::new();
        let (field, read) = (self.field, self.read);
        folder.write("r.record.toml", format!("format = 1\nrecord = \"t\"\n[[field]]\nname = \"v\"\n{field}\n[[field]]\nname = \"n\"\nkind = \"integer\"\n{LISTS}"));
        folder.write("p.plan.toml", format!("format = 1\nrecord = \"r.record.toml\"\n[read]\n{read}\n"));
        folder.write("sites.csv", "code\nW07-MILL\nW07-ORCH\n");
        let mut table = csv::Writer::from_path(folder.path("table.csv")).unwrap();
        table.write_record(["v", "n"]).unwrap();
        for (number, text) in texts.iter().enumerate() {
            table.write_record([*text, &number.to_string()]).unwrap();
        }
        table.flush().unwrap();
        let reference = if field.contains("reference") { " --reference site=sites.csv:code" } else { "" };
        let ran = folder.run(&format!(
            "check table.csv --plan p.plan.toml --today 2026-11-25 --format json --ready ready.csv{reference}"
        ));
        assert!(ran.code < 2, "{}: {}", self.title, ran.err);
        let report: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
        let mut outcomes: Vec<_> = texts.iter().map(|text| ((*text).to_owned(), String::new())).collect();
        for row in csv::Reader::from_path(folder.path("ready.csv")).unwrap().records().map(Result::unwrap) {
            outcomes[row[1].parse::<usize>().unwrap()].1 = row[0].to_owned();
        }
        for finding in report["findings"].as_array().unwrap() {
            if finding["level"] == "stop" && finding["letter"] == "A" {
                let row = finding["row"].as_u64().unwrap() as usize;
                outcomes[row - 2].1 = finding["code"].as_str().unwrap().to_owned();
            }
        }
        outcomes
    }
}

/// A text as a cell of a Markdown table shows it.
fn shown(text: &str) -> String {
    let visible =
        text.replace('\u{A0}', "[no-break space]").replace('\u{202F}', "[narrow space]").replace('|', "\\|");
    format!("`{visible}`")
}

#[test]
fn every_kind_accepts_and_refuses_what_the_table_says() {
    let mut wrong = Vec::new();
    let mut page = String::from("| kind | accepted, → in the target's form | refused |\n|---|---|---|\n");
    for case in CASES {
        let outcomes = case.outcomes();
        for ((text, outcome), (_, expected)) in outcomes.iter().zip(case.accepted.iter().chain(case.refused))
        {
            if outcome != expected {
                wrong.push(format!("{}: {text:?} is {outcome:?}, not {expected:?}", case.title));
            }
        }
        let (accepted, refused) = outcomes.split_at(case.accepted.len());
        let accepted: Vec<_> = accepted
            .iter()
            .map(|(text, value)| match text == value {
                true => shown(text),
                false => format!("{} → {}", shown(text), shown(value)),
            })
            .collect();
        let refused: Vec<_> = refused.iter().map(|(text, code)| format!("{} {code}", shown(text))).collect();
        page.push_str(&format!("| {} | {} | {} |\n", case.title, accepted.join(", "), refused.join(", ")));
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    current_part("record-schema.md", "spellings", &page);
}
