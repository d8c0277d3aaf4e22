//! What is judged of whole rows and files: examples, totals, defaults, blanks, rules that were never asked. Each case
//! is a small file of another trade, with all that is told of it.

use crate::tool::{Folder, told};
use serde_json::Value;

struct Case {
    what: &'static str,
    /// Fields as `name kind further keys`, and what else the schema says, one a line.
    schema: &'static str,
    table: &'static str,
    words: &'static str,
    told: &'static [&'static str],
    /// Ready, held and left out.
    counts: [u64; 3],
}

/// The record schema: the first lines are `name: kind; key = value; …`, the rest stands as it is.
pub(crate) fn schema(text: &str) -> String {
    let mut toml = "format = 1\nrecord = \"t\"\n".to_owned();
    let (mut fields, mut rest) = (String::new(), String::new());
    for line in text.lines().map(str::trim).filter(|line| !line.is_empty()) {
        match line.split_once(": ").filter(|(name, _)| name.chars().all(|c| c.is_alphanumeric() || c == '_'))
        {
            Some((name, kind)) => {
                let mut parts = kind.split("; ");
                let kind = parts.next().unwrap_or_default();
                fields.push_str(&format!("[[field]]\nname = \"{name}\"\nkind = \"{kind}\"\n"));
                parts.for_each(|part| fields.push_str(&format!("{part}\n")));
            }
            None if line.starts_with("key =") || line.starts_with("unique =") => {
                toml.push_str(&format!("{line}\n"))
            }
            None => rest.push_str(&format!("{line}\n")),
        }
    }
    toml + &fields + &rest
}

fn counts(report: &Value) -> [u64; 3] {
    ["ready", "held", "left_out"].map(|name| report["counts"][name].as_u64().unwrap_or_default())
}

#[test]
pub(crate) fn rows_are_judged_as_their_writers_meant_them() {
    let cases = CASES;
    let mut wrong = Vec::new();
    for case in cases {
        let folder = Folder::new();
        let (record, plan) = case.schema.split_once("PLAN\n").unwrap_or((case.schema, ""));
        folder.write("r.record.toml", schema(record)).write("table.csv", case.table);
        folder.write("p.plan.toml", format!("format = 1\n{plan}"));
        let report = folder.report(case.words);
        let (found, count) = (told(&report), counts(&report));
        if found != case.told || count != case.counts {
            wrong.push(format!(
                "{}:\n  {found:?} {count:?}\n  wanted {:?} {:?}",
                case.what, case.told, case.counts
            ));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

const HIRE: &str = "key = [\"boat\"]\nboat: text; required = true\nhours: integer\nfee: decimal\n";
const CLINIC: &str = "patient: text; required = true\nward: text; default = \"A\"\nbed: integer\nunique = [[\"ward\", \"bed\"]]\n\
    key = [\"patient\"]\n";

const CASES: &[Case] = &[
    Case {
        what: "a total that sums its column is left out",
        schema: HIRE,
        table: "boat,hours,fee\nA,1,2.50\nB,2,3.50\nTotal,3,6.00\n",
        words: "",
        told: &["total-row 4 - -"],
        counts: [2, 0, 1],
    },
    Case {
        what: "a total that does not sum is held",
        schema: HIRE,
        table: "boat,hours,fee\nA,1,2.50\nB,2,3.50\nTotal,4,6.00\n",
        words: "",
        told: &["total-wrong 4 B hours"],
        counts: [2, 1, 0],
    },
    Case {
        what: "a boat called Total is a boat",
        schema: HIRE,
        table: "boat,hours,fee\nTotal,1,2.50\nB,2,3.50\nC,2,3.50\n",
        words: "",
        told: &[],
        counts: [3, 0, 0],
    },
    Case {
        what: "a line below the table is no row",
        schema: "key = [\"boat\"]\nboat: text; pattern = \"[A-Z]{1,3}\"\nhours: integer\nfee: decimal\n",
        table: "boat,hours,fee\nA,1,2.50\nB,2,3.50\nC,3,1.00\nExported on 3 May by the harbour office,,\n",
        words: "",
        told: &["footer-row 5 - -"],
        counts: [3, 0, 1],
    },
    Case {
        what: "separators alone hold no value",
        schema: "key = [\"k\"]\nk: text\nhazards: picklist; required = true; picklist = \"h\"; many = { separator = \";\" }\n\
                 [picklist.h]\nvalues = [{ code = \"ice\" }, { code = \"fog\" }]\n",
        table: "k,hazards\na,ice;fog\nb,;\nc,\" ; ; \"\n",
        words: "",
        told: &["required-blank 3 B hazards", "required-blank 4 B hazards"],
        counts: [1, 2, 0],
    },
    Case {
        what: "a default counts where rows must differ",
        schema: CLINIC,
        table: "patient,ward,bed\np1,A,7\np2,,7\np3,B,7\n",
        words: "",
        told: &["unique-repeated 2 - -", "unique-repeated 3 - -"],
        counts: [1, 2, 0],
    },
    Case {
        what: "a weekday must fit its day",
        schema: "key = [\"k\"]\nk: text\non: date; dates = [\"EEEE d MMMM yyyy\"]\n",
        table: "k,on\na,Friday 3 September 2021\nb,Monday 3 September 2021\n",
        words: "",
        told: &["date-bad 3 B on"],
        counts: [1, 1, 0],
    },
    Case {
        what: "rows with nothing under a field make no empty records",
        schema: "name: text\nnote: text\n",
        table: "name,note,internal\nAda,x,1\n,,2\n,y,3\n",
        words: "",
        told: &["key-none - - -", "heading-unpaired 1 C -", "row-blank 3 - -"],
        counts: [2, 0, 0],
    },
    Case {
        what: "a mark here and there is no delimiter",
        schema: "note: text\n",
        table: "note\na\nb\nc\nd\np;q\n",
        words: "",
        told: &["key-none - - -"],
        counts: [5, 0, 0],
    },
    Case {
        what: "a rule whose field is not in the file was never asked",
        schema: "key = [\"k\"]\nk: text\nbegins: date\nends: date\n[[rule]]\nname = \"order\"\nmust = \"ends >= begins\"\n",
        table: "k,begins\na,2024-01-01\n",
        words: "",
        told: &["rule-unchecked - - -"],
        counts: [1, 0, 0],
    },
    Case {
        what: "decimals are summed exactly",
        schema: "key = [\"k\"]\nk: text\na: decimal\nb: decimal\nwhole: decimal\n\
                 [[rule]]\nname = \"sum\"\nmust = \"a + b = whole\"\n",
        table: "k,a,b,whole\nx,0.1,0.2,0.3\ny,0.1,0.2,0.30000000000000004\n",
        words: "",
        told: &["rule-broken 3 - -"],
        counts: [1, 1, 0],
    },
    Case {
        what: "thirds compare as thirds",
        schema: "key = [\"k\"]\nk: text\na: decimal\nb: decimal\n[[rule]]\nname = \"third\"\nmust = \"a / 3 = b / 9\"\n",
        table: "k,a,b\nx,1,3\ny,1,3.0001\n",
        words: "",
        told: &["rule-broken 3 - -"],
        counts: [1, 1, 0],
    },
    Case {
        what: "a faulty cell leaves open what a rule says",
        schema: "key = [\"k\"]\nk: text\nn: integer\nm: integer\n[[rule]]\nname = \"above\"\nmust = \"n > 0 OR m > 0\"\n",
        table: "k,n,m\na,x,1\nb,x,-1\nc,-1,-1\n",
        words: "",
        told: &["integer-bad 2 B n", "integer-bad 3 B n", "rule-broken 4 - -"],
        counts: [0, 3, 0],
    },
    Case {
        what: "blanks are advised when adding, and left alone when updating",
        schema: "key = [\"k\"]\nk: text\nn: integer; required = \"advised\"\n",
        table: "k,n\na,1\nb,\n",
        words: "--mode update",
        told: &[],
        counts: [2, 0, 0],
    },
    Case {
        what: "telephone numbers with a zero behind the country's code",
        schema: "key = [\"k\"]\nk: text\ntel: phone\n",
        table: "k,tel\na,+44 (0)20 7946 0018\nb,+44 20 7946 0018\nc,call me\n",
        words: "",
        told: &["phone-bad 4 B tel"],
        counts: [2, 1, 0],
    },
    Case {
        what: "addresses on the web are judged by their parts",
        schema: "key = [\"k\"]\nk: text\nsite: url\n",
        table: "k,site\na,https://reef.example/a?b=c#d\nb,https://\nc,https://a b.example\nd,http://x.example:99999/\ne,reef.example\n",
        words: "",
        told: &["url-bad 3 B site", "url-bad 4 B site", "url-bad 5 B site", "url-bad 6 B site"],
        counts: [1, 4, 0],
    },
    Case {
        what: "marks between thousands by their names",
        schema: "key = [\"k\"]\nk: text\nn: decimal; currency = [\"\u{20AC}\"]\nPLAN\n\
                 [read]\ndecimal_mark = \".\"\ngroup_mark = \"narrow no-break space\"\n",
        table: "k,n\na,1\u{202F}234.5\nb,\u{20AC}-12.50\nc,(7.25)\nd,7.25-\ne,-\u{20AC}3\n",
        words: "--plan p.plan.toml",
        told: &[],
        counts: [5, 0, 0],
    },
    Case {
        what: "a total gives no way to a repeat",
        schema: "key = [\"who\"]\nwho: text\nn: integer\nPLAN\n[repeats]\nstands = \"last\"\n",
        table: "who,n\nBob,3\nQueue,4\nBob,5\nTotal,12\n",
        words: "--plan p.plan.toml",
        told: &["key-repeated 2 A who", "total-row 5 - -"],
        counts: [2, 0, 2],
    },
    Case {
        what: "a total in another language",
        schema: HIRE,
        table: "boat,hours,fee\nA,1,2.50\nB,2,3.50\nSumme,3,6.50\n",
        words: "",
        told: &["total-wrong 4 C fee"],
        counts: [2, 1, 0],
    },
    Case {
        what: "the first row of a sample is a record",
        schema: "key = [\"k\"]\nk: text; example = \"a\"\nn: integer; example = \"1\"\n",
        table: "k,n\na,1\nb,2\n",
        words: "",
        told: &[],
        counts: [2, 0, 0],
    },
    Case {
        what: "an example that a plan names",
        schema: "key = [\"k\"]\nk: text\nn: integer\nPLAN\n[file]\nexample_row = 2\n",
        table: "k,n\na,1\nb,2\n",
        words: "--plan p.plan.toml",
        told: &["example-row 2 - -"],
        counts: [1, 0, 1],
    },
    Case {
        what: "a default over a column that was misspelt",
        schema: "key = [\"k\"]\nk: text\npaid: boolean; default = \"false\"\n",
        table: "k,paied\na,TRUE\nb,TRUE\nc,FALSE\n",
        words: "",
        told: &["default-over-column 1 B paid"],
        counts: [0, 3, 0],
    },
    Case {
        what: "an open list warns for several values as for one",
        schema: "key = [\"k\"]\nk: text\nhazards: picklist; picklist = \"h\"; many = { separator = \";\" }\n\
                 [picklist.h]\nopen = true\nvalues = [{ code = \"ice\" }, { code = \"fog\" }]\n",
        table: "k,hazards\na,ice;fog\nb,ice;snow\n",
        words: "",
        told: &["off-list 3 B hazards"],
        counts: [2, 0, 0],
    },
    Case {
        what: "addresses that differ in case alone are nearly one key",
        schema: "key = [\"mail\"]\nmail: email\nn: integer\n",
        table: "mail,n\na@b.example,1\nA@b.example,2\n",
        words: "",
        told: &["key-nearly-repeated 2 A mail", "key-nearly-repeated 3 A mail"],
        counts: [2, 0, 0],
    },
    Case {
        what: "a difference of nought stays exact",
        schema: "key = [\"k\"]\nk: text\na: decimal\nb: decimal\n[[rule]]\nname = \"far\"\nmust = \"a - b - 2 > 5\"\n",
        table: "k,a,b\nx,3.5,3.5\ny,9,1.5\nz,10,1.5\n",
        words: "",
        told: &["rule-broken 2 - -"],
        counts: [2, 1, 0],
    },
    Case {
        what: "one cell with a comma does not decide for hundreds",
        schema: "key = [\"k\"]\nk: text\nn: decimal\n",
        table: "k,n\na,\"5,759\"\nb,\"1,250\"\nc,\"2,500\"\nd,\"3,125\"\ne,\"4,000\"\nf,\"7,875\"\ng,\"6,125\"\nh,\"1,125\"\nj,\"1,150\"\nk,\"8,225\"\nl,\"2,375\"\ni,\"12,5\"\n",
        words: "",
        told: &[
            "form-guessed 1 B n",
            "number-unclear 2 B n",
            "number-unclear 3 B n",
            "number-unclear 4 B n",
            "number-unclear 5 B n",
            "number-unclear 6 B n",
            "number-unclear 7 B n",
            "number-unclear 8 B n",
            "number-unclear 9 B n",
            "number-unclear 10 B n",
            "number-unclear 11 B n",
            "number-unclear 12 B n",
        ],
        counts: [1, 11, 0],
    },
    Case {
        what: "the order of one written form is borrowed by another with a warning",
        schema: "key = [\"k\"]\nk: text\nd: date\n",
        table: "k,d\na,25/03/2024\nb,26/03/2024\nc,12.05.2025\n",
        words: "",
        told: &["form-guessed 1 B d", "date-order-borrowed 4 B d"],
        counts: [3, 0, 0],
    },
    Case {
        what: "datetimes are one key when they are one instant",
        schema: "key = [\"at\"]\nat: datetime\nn: integer\n",
        table: "at,n\n2024-03-09T09:30:00Z,1\n2024-03-09T10:30:00+01:00,2\n",
        words: "",
        told: &["key-repeated 2 A at", "key-repeated 3 A at"],
        counts: [0, 2, 0],
    },
    Case {
        what: "a default counts in a block",
        schema: "key = [\"k\"]\nk: text\nx: decimal\ny: decimal\nsource: text; default = \"survey\"\n\
                 [[together]]\nname = \"position\"\nfields = [\"x\", \"y\", \"source\"]\n",
        table: "k,x,y,source\na,1,2,\nb,1,,map\n",
        words: "",
        told: &["block-incomplete 3 - -"],
        counts: [1, 1, 0],
    },
    Case {
        what: "a required blank is told once",
        schema: "key = [\"k\"]\nk: text\nn: integer; required = true\n[[rule]]\nname = \"n\"\nmust = \"n IS NOT NULL\"\n",
        table: "k,n\na,\n",
        words: "",
        told: &["required-blank 2 B n"],
        counts: [0, 1, 0],
    },
    Case {
        what: "a row left out by a condition on a faulty cell is held with its fault",
        schema: "key = [\"k\"]\nk: text\nn: integer\nPLAN\n[scope]\nwhere = \"n > 5\"\noutside = \"leave-out\"\n",
        table: "k,n\na,7\nb,x\nc,3\n",
        words: "--plan p.plan.toml",
        told: &["integer-bad 3 B n", "row-out-of-scope 4 - -"],
        counts: [1, 1, 1],
    },
];
