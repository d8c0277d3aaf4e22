//! Pairing: every exact heading is taken, no other is taken as sure, and a plan keeps what was decided.

use crate::tool::{Folder, Ran, demo};
use serde_json::Value;

/// Fields with near-twins: each pair is told apart by a word, an ending or a space.
const SCHEMA: &str = r#"
format = 1
record = "tree"
key = ["tag_no"]

[[field]]
name = "tag_no"
label = "Tag number"
also = ["Tree tag"]
kind = "text"
pattern = "HT-[0-9]{3}"
[[field]]
name = "old_tag_no"
label = "Old tag number"
kind = "text"
pattern = "X[0-9]{4}"
[[field]]
name = "ward"
label = "Ward"
kind = "picklist"
picklist = "ward"
required = true
[[field]]
name = "ward_area"
label = "Ward area"
kind = "text"
[[field]]
name = "name"
label = "Name"
kind = "text"
[[field]]
name = "common_name"
label = "Common name"
kind = "text"
[[field]]
name = "planted_on"
label = "Planted on"
also = ["Planted"]
kind = "date"
[[field]]
name = "replanted_on"
label = "Replanted on"
kind = "date"
[[field]]
name = "girth_cm"
label = "Girth (cm)"
kind = "decimal"
[[field]]
name = "girth_2_cm"
label = "Girth 2 (cm)"
kind = "decimal"
[[field]]
name = "inspector_email"
label = "Inspector's e-mail"
kind = "email"

[picklist.ward]
values = [{ code = "W1", label = "Mill" }, { code = "W2", label = "Orchard" }, { code = "W3", label = "Upfield" }]
"#;

/// Heading sets, `;` between; and for each heading the field that is sure, `?field` for one that may be proposed
/// first, `-` for none.
const SETS: [(&str, &str); 43] = [
    ("tag_no;ward;ward_area", "tag_no;ward;ward_area"),
    ("Tag number;Ward;Ward area", "tag_no;ward;ward_area"),
    ("TAG NUMBER;WARD;WARD AREA", "tag_no;ward;ward_area"),
    ("tagNumber;wardArea;Ward", "tag_no;ward_area;ward"),
    (" Tag number ;Ward\u{A0}area;ward", "tag_no;ward_area;ward"),
    ("Tag-number;Ward_Area", "tag_no;ward_area"),
    ("Tree tag;Old tag number", "tag_no;old_tag_no"),
    ("tree_tag;oldTagNo", "tag_no;old_tag_no"),
    ("Old tag number;Tag number", "old_tag_no;tag_no"),
    ("Name;Common name", "name;common_name"),
    ("Common name;Name", "common_name;name"),
    ("COMMON_NAME;NAME", "common_name;name"),
    ("commonName;name", "common_name;name"),
    ("Planted on;Replanted on", "planted_on;replanted_on"),
    ("Replanted on;Planted", "replanted_on;planted_on"),
    ("planted-on;replanted-on", "planted_on;replanted_on"),
    ("Girth (cm);Girth 2 (cm)", "girth_cm;girth_2_cm"),
    ("Girth 2 (cm);Girth (cm)", "girth_2_cm;girth_cm"),
    ("girth cm;girth 2 cm", "girth_cm;girth_2_cm"),
    ("GIRTH (CM);GIRTH 2 (CM)", "girth_cm;girth_2_cm"),
    ("Inspector's e-mail;Name", "inspector_email;name"),
    ("inspectors email;name", "inspector_email;name"),
    ("Inspecters e-mail;name", "?inspector_email;name"),
    ("Tag numbr;Ward", "?tag_no;ward"),
    ("Tag nummber;Warrd", "?tag_no;?ward"),
    ("Ward aera;Ward", "?ward_area;ward"),
    ("Wards;Ward area", "?ward;ward_area"),
    ("Comon name;Name", "?common_name;name"),
    ("Common names;Nam", "?common_name;?name"),
    ("Plantd on;Replanted on", "?planted_on;replanted_on"),
    ("Re-planted on;Planted on", "replanted_on;planted_on"),
    ("Girht (cm);Girth 2 (cm)", "?girth_cm;girth_2_cm"),
    ("Girth;Girth 2 (cm)", "?girth_cm;girth_2_cm"),
    ("Old tag numbr;Tag number", "?old_tag_no;tag_no"),
    ("Area;Ward", "-;ward"),
    ("Surveyor;Weather", "-;-"),
    ("Tag number;Tag number", "-;-"),
    ("Tag number;tag_no", "-;tag_no"),
    ("Ward;WARD", "ward;-"),
    ("Name;Nickname;Surname", "name;-;-"),
    ("Date;Ward", "-;ward"),
    ("Tag;Ward", "?tag_no;ward"),
    ("Ward (code);Ward area (name)", "?ward;?ward_area"),
];

fn matched(folder: &Folder, words: &str) -> (i32, Value) {
    let ran = folder.run(&format!("match table.csv --record r.record.toml --format json {words}"));
    assert!(ran.code < 2, "{}", ran.err);
    (ran.code, serde_json::from_str(&ran.out).unwrap())
}

#[test]
fn near_twins_are_not_mixed_up_in_forty_heading_sets() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    for (headings, wanted) in SETS {
        folder.write("table.csv", format!("{headings}\n"));
        let (_, report) = matched(&folder, "--delimiter semicolon --heading-row 1");
        for (column, wanted) in report["columns"].as_array().unwrap().iter().zip(wanted.split(';')) {
            let sure = column["field"].as_str();
            assert_eq!(column["sure"], sure.is_some(), "{headings}");
            match wanted.strip_prefix('?') {
                None if wanted == "-" => assert_eq!(sure, None, "{headings}: {column}"),
                None => assert_eq!(sure, Some(wanted), "{headings}: {column}"),
                // What is only near is never sure, and proposed first.
                Some(near) => {
                    assert_eq!(sure, None, "{headings}: {column}");
                    assert_eq!(column["proposals"][0]["field"], near, "{headings}: {column}");
                    assert_eq!(column["how"], "likeness", "{headings}");
                }
            }
        }
    }
}

#[test]
fn content_takes_part_in_what_is_proposed() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    // A heading like "Ward" over dates is none, and nothing like a heading can still be known by what stands below.
    let rows: String =
        (1..9).map(|n| format!("HT-{n:03},2019-01-0{n},W{},name {n},a{n}@x.example\n", n % 3 + 1)).collect();
    folder.write("table.csv", format!("tag_no,Wardd,K1,K2,K3\n{rows}"));
    let (code, report) = matched(&folder, "");
    assert_eq!(code, 1, "the ward is needed and open");
    let column = |number: usize| &report["columns"][number];
    let proposed = |number: usize| column(number)["proposals"][0]["field"].as_str();
    assert_eq!(
        (proposed(1), proposed(2), proposed(3)),
        (Some("planted_on"), Some("ward"), None),
        "{report:#}"
    );
    assert_eq!((proposed(4), &column(4)["how"]), (Some("inspector_email"), &"content".into()));
    let open = report["fields_without_column"][0].clone();
    assert_eq!(
        (&open["field"], &open["required"], &open["needed"]),
        (&"ward".into(), &true.into(), &true.into())
    );
    // Swapped columns are said, each with the other.
    folder.write("table.csv", format!("tag_no,ward,planted_on,name,K\n{rows}"));
    let (code, report) = matched(&folder, "");
    let misfit = |number: usize| report["columns"][number]["misfit"].as_str().unwrap_or_default().to_owned();
    assert!(code == 1 && misfit(1).contains("column C (\"planted_on\")"), "{}", misfit(1));
    assert!(misfit(2).contains("column B (\"ward\")"), "{}", misfit(2));
}

#[test]
fn a_plan_keeps_what_was_decided_and_what_a_person_wrote() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    folder.write("table.csv", "Survey,,,\nTag,Wardd,who,Notes\nHT-001,W1,J,a\nHT-002,Mill,K,b\n");
    let words = "--set Tag=tag_no --set Wardd=Ward --leave-out who --leave-out @D --default name=unknown --save p.plan.toml";
    let (code, report) = matched(&folder, words);
    assert_eq!((code, &report["saved"]), (0, &"p.plan.toml".into()), "{report:#}");
    let plan = folder.read("p.plan.toml");
    for line in [
        "record = \"r.record.toml\"",
        "Tag = \"tag_no\"",
        "Wardd = \"ward\"",
        "who = false",
        "\"@D\" = false",
        "heading_row = 2",
        "name = \"unknown\"",
    ] {
        assert!(plan.contains(line), "{line} in {plan}");
    }
    let ran = folder.run("check table.csv --plan p.plan.toml --ready ready.csv");
    assert_eq!(
        (ran.code, folder.read("ready.csv").as_str()),
        (0, "tag_no,ward,name\nHT-001,W1,unknown\nHT-002,W1,unknown\n")
    );

    // Next month two headings are others: only their lines change.
    let written =
        plan.replace("Wardd = \"ward\"", "# the contractor's own spelling\nWardd = \"ward\"   # sic");
    folder.write("p.plan.toml", &written);
    folder.write("table.csv", "Survey,,,\nTag,Bezirk,Notes,\nHT-001,W1,a,\n");
    let ran = folder.run("match table.csv --plan p.plan.toml");
    assert!(ran.code == 1 && ran.out.contains("plan-outdated") && ran.out.contains("Wardd"), "{}", ran.out);
    let ran = folder.run("match table.csv --plan p.plan.toml --set Bezirk=ward --save p.plan.toml");
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    let plan = folder.read("p.plan.toml");
    assert!(plan.contains("Bezirk = \"ward\"") && !plan.contains("Wardd") && !plan.contains("who"), "{plan}");
    assert!(plan.starts_with("# How this file is read") && plan.contains("Tag = \"tag_no\""), "{plan}");
}

#[test]
fn what_cannot_be_decided_so_is_refused() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("table.csv", "tag_no,Ward,Ward \nHT-001,W1,W2\n");
    folder.write("other.plan.toml", "not a plan");
    for (words, message) in [
        ("--set tag_no", "has no `="),
        ("--set tagno=girht_cm", "did you mean `girth_cm`?"),
        ("--set Wrd=ward", "no column has the heading \"Wrd\""),
        ("--set Ward=ward", "several columns have the heading \"Ward\""),
        ("--set @Z=ward", "there is no column @Z"),
        ("--set @B=ward --set @C=ward --set @B=ward_area --default tag_no=x", "takes no default"),
        ("--default planted_on=soon", "no value of kind date"),
        ("--save r.record.toml", "is not permitted"),
        ("--save plan.txt", ".toml"),
        ("--ask", "--ask needs a terminal"),
    ] {
        let Ran { code, err, .. } = folder.run(&format!("match table.csv --record r.record.toml {words}"));
        let is_told = err.contains(message) || words == "--save r.record.toml" && !err.is_empty();
        assert!(code == 2 && is_told, "{words}: {code} {err}");
    }
    assert_eq!(folder.names(), ["other.plan.toml", "r.record.toml", "table.csv"]);
}

#[test]
fn a_file_without_headings_is_paired_by_place() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("table.csv", "HT-001,x,W1\nHT-002,y,W2\n");
    let ran = folder.run(
        "match table.csv --record r.record.toml --by-position --set 1=tag_no --set C=ward --leave-out 2 --save p.plan.toml",
    );
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    let ran = folder.run("check table.csv --plan p.plan.toml --ready ready.csv");
    assert_eq!(
        (ran.code, folder.read("ready.csv").as_str()),
        (0, "tag_no,ward\nHT-001,W1\nHT-002,W2\n"),
        "{}",
        ran.out
    );
}

#[test]
fn the_demo_file_is_matched_in_a_screen() {
    let folder = Folder::new();
    for name in ["tree.record.toml", "species.csv", "ward-9-survey.csv"] {
        folder.write(name, std::fs::read(demo().join(name)).unwrap());
    }
    let ran = folder.run("match ward-9-survey.csv --record tree.record.toml");
    assert_eq!(ran.code, 1, "needed fields are open");
    insta::assert_snapshot!(ran.out, @r"

    ward-9-survey.csv  2.3 KB, CSV in UTF-8, commas, headings in row 1
    Street tree (tree 2026.1)  

    Columns  4 paired, 5 to decide, 1 left out
    A  Tree tag no  ? tag_no
       a heading like this one, and all of its values fit: HT-0009100 · HT-000910…
    B  Site         → site_code    its label            text, 6 values
    C  Position     → position_no  its label            integer, 4 values
    D  Speces       ? species
       a heading like this one, and all of its values fit: Hazel · SAL-ALB · TIL-…
    E  Girth        ? girth_cm
       a heading like this one, and all of its values fit: 144.5 · 27 · 115.2
    F  Cond         → condition    another heading, but for punctuation  
    G  When seen    ? inspected_on or planted_on or removal_due
       all of its values fit this field: 2026-03-18 · 2026-04-03 · 2026-03-26
    H  E-mail       ? inspector_email
       a heading like this one, and all of its values fit: *** · *** · ***
    I  Protected    → protected    its label            boolean, 2 values
    J  Surveyor     ×              no field is like it  picklist, 3 values
       JM · AO · KL

    Fields without a column  3 are needed
    ! tag_no           Tag number, likely in column A
    ! species          Species, likely in column D
    ! inspected_on     Inspected on, likely in column G
      planted_on       Planted on
      girth_cm         Girth (cm), likely in column E
      height_m         Height (m)
      stems            Stems
      inspector_email  Inspector's e-mail, likely in column H
      removal_due      Removal due
      notes            Notes

    Next
      Look at what is likely; if it is right, keep it in a plan (or go through it
      with --ask):
        tidy-gate match ward-9-survey.csv --record tree.record.toml \
          --set 'Tree tag no=tag_no' --set Speces=species --set Girth=girth_cm \
          --set 'When seen=inspected_on' --set E-mail=inspector_email \
          --leave-out Surveyor --save ward-9-survey.plan.toml
    ");
}

/// Other trades: their fields, and headings that people write, each alone with the field that is proposed first; `=`
/// where it is sure, `-` where nothing may be.
const TRADES: [(&str, &[(&str, &str)]); 5] = [
    (
        "insp_on: date; label = \"Inspection date\"\nnext_insp_on: date; label = \"Next inspection\"\n\
         last_insp_on: date; label = \"Last inspection\"\nheight_m: decimal; label = \"Height (m)\"\n\
         species: text; label = \"Species\"\ntag_no: text; label = \"Tag number\"\nremarks: text; label = \"Remarks\"\n",
        &[
            ("Insp. date", "insp_on"),
            ("Nxt insp", "next_insp_on"),
            ("Next insp.", "next_insp_on"),
            ("Last insp.", "last_insp_on"),
            ("Prev. inspection", "last_insp_on"),
            ("Ht (m)", "height_m"),
            ("Height", "height_m"),
            ("Spp", "species"),
            ("Tag No.", "=tag_no"),
            ("Tag Nr", "tag_no"),
            ("Tag #", "tag_no"),
            ("Remark", "remarks"),
            ("Insp remarks", "remarks"),
        ],
    ),
    (
        "start_date: date; label = \"Start date\"\nend_date: date; label = \"End date\"\nmin_temp: decimal; label = \"Minimum temperature\"\n\
         max_temp: decimal; label = \"Maximum temperature\"\nqty: integer; label = \"Quantity\"\nunit_price: decimal; label = \"Unit price\"\n\
         old_code: text; label = \"Old code\"\nnew_code: text; label = \"New code\"\n",
        &[
            ("Start", "start_date"),
            ("End", "end_date"),
            ("Start dt", "start_date"),
            ("Min. temp", "=min_temp"),
            ("Max temp (C)", "max_temp"),
            ("Max. temperature", "max_temp"),
            ("Qty", "=qty"),
            ("Qty.", "=qty"),
            ("Quantty", "qty"),
            ("Price", "unit_price"),
            ("Old cd", "old_code"),
            ("New Code", "=new_code"),
            ("Price per unit", "unit_price"),
        ],
    ),
    (
        "first_name: text; label = \"First name\"\nlast_name: text; label = \"Last name\"\nphone: phone; label = \"Telephone\"\n\
         mobile: phone; label = \"Mobile phone\"\nemail: email; label = \"E-mail address\"\npostcode: text; label = \"Postcode\"\n\
         street: text; label = \"Street\"\nbirth_date: date; label = \"Date of birth\"\n",
        &[
            ("First Name", "=first_name"),
            ("Firstname", "=first_name"),
            ("Last nme", "last_name"),
            ("Tel.", "phone"),
            ("Mobile", "=mobile"),
            ("Mobile no.", "mobile"),
            ("E-Mail", "=email"),
            ("Email addr.", "email"),
            ("Post code", "=postcode"),
            ("Postcde", "postcode"),
            ("Birth date", "=birth_date"),
            ("Birthdate", "=birth_date"),
        ],
    ),
    (
        "ship_from: text; label = \"Ship from\"\nship_to: text; label = \"Ship to\"\nweight_kg: decimal; label = \"Weight (kg)\"\n\
         weight_net: decimal; label = \"Net weight\"\ninvoice_no: text; label = \"Invoice number\"\norder_no: text; label = \"Order number\"\n",
        &[
            ("Ship From", "=ship_from"),
            ("Shipped to", "ship_to"),
            ("Wt (kg)", "weight_kg"),
            ("Net wt", "weight_net"),
            ("Weight kg", "=weight_kg"),
            ("Inv. no", "invoice_no"),
            ("Invoice #", "invoice_no"),
            ("Order Nr.", "order_no"),
            ("Ord no", "order_no"),
            ("Order No", "=order_no"),
        ],
    ),
    (
        "kundennummer: text; label = \"Kundennummer\"\nstrasse: text; label = \"Straße\"\neintritt: date; label = \"Eintrittsdatum\"\n\
         austritt: date; label = \"Austrittsdatum\"\nbetrag: decimal; label = \"Betrag (EUR)\"\nbemerkung: text; label = \"Bemerkung\"\n",
        &[
            ("Kundennumer", "kundennummer"),
            ("Kundennr.", "kundennummer"),
            ("Strasse", "=strasse"),
            ("Eintrittsdat.", "eintritt"),
            ("Austritts-Datum", "=austritt"),
            ("Betrag", "=betrag"),
            ("Betrag EUR", "=betrag"),
            ("Bemerkungen", "bemerkung"),
            ("BEMERKUNG", "=bemerkung"),
            ("Betrag in EUR", "betrag"),
            ("Eintritt", "=eintritt"),
            ("Farbe", "-"),
        ],
    ),
];

#[test]
fn headings_of_five_trades_are_likened_by_their_words() {
    let folder = Folder::new();
    let (mut count, mut wrong) = (0, Vec::new());
    for (fields, cases) in TRADES {
        folder.write("r.record.toml", crate::whole_rows::schema(fields));
        for (heading, wanted) in cases {
            count += 1;
            folder.write("table.csv", format!("{heading};zzz\n"));
            let (_, report) = matched(&folder, "--delimiter semicolon --heading-row 1");
            let column = &report["columns"][0];
            let first = column["proposals"][0]["field"].as_str().unwrap_or_default();
            let found =
                column["field"].as_str().map_or_else(|| first.to_owned(), |field| format!("={field}"));
            if found != wanted.trim_start_matches('-') {
                wrong.push(format!("{heading}: {found}, wanted {wanted}"));
            }
        }
    }
    assert!(count >= 60 && wrong.is_empty(), "{count} cases\n{}", wrong.join("\n"));
}
