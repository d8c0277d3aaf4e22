//! The program as a whole: help, explain, demo.

use crate::tool::{Folder, demo};

#[test]
fn help_says_what_each_command_does() {
    let folder = Folder::new();
    for (words, parts) in [
        ("--help", vec!["check", "explain", "demo", "Exit codes: 0 the gate is open, 1 the gate is shut"]),
        (
            "check --help",
            vec!["--record <RECORD>", "--dates <PATTERN>", "--held <FILE>", "Examples, on the demo data"],
        ),
        ("explain --help", vec!["tidy-gate explain date-bad"]),
        ("demo --help", vec!["tidy-gate-demo"]),
    ] {
        let ran = folder.run(words);
        assert_eq!(ran.code, 0);
        for part in parts {
            assert!(ran.out.contains(part), "{words}: {part}");
        }
        assert!(ran.out.lines().all(|line| line.chars().count() <= 100), "{words}");
    }
    assert_eq!(folder.run("").code, 2);
}

#[test]
fn the_help_of_check_is_what_a_newcomer_needs() {
    insta::assert_snapshot!(Folder::new().run("check --help").out, @r#"
    May this file go through? The verdict, the reasons, the ready rows and the held rows

    Usage: tidy-gate check [OPTIONS] <FILE>

    Arguments:
      <FILE>
              The file to check: delimited text (also .gz or .zst), a workbook (XLSX, XLSB, XLS, ODS) or
              JSON; - reads standard input

    Options:
      -r, --record <RECORD>
              The record schema to check against

      -p, --plan <PLAN>
              The plan for the file: how it is read and paired, and what it may change

          --mode <MODE>
              What loading the file would do to the target [default: the plan's, else add]

              Possible values:
              - add:    Every row becomes a new record
              - update: Every row changes a record that is there
              - both:   What is new is added, the rest updated

          --dates <PATTERN>
              A form in which the file writes dates, such as dd/MM/yyyy; may be given several times
              
              Days are d, months M, years y, as in spreadsheets: d MMM yyyy reads 3 Mar 2024. ISO dates
              are read beside the stated forms. A field that names its own forms in the record schema
              keeps to those.

          --reference <NAME=FILE:COLUMN>
              Where the keys of a record come from that fields refer to; may be given several times
              
              Such as site=sites.csv:site_code: the column site_code of the file holds the keys of the
              record site.

          --existing <SOURCE>
              The records that the target already holds: an export, FILE#TABLE of an SQLite database or
              env:VARIABLE#TABLE of PostgreSQL
              
              Keys are held against them: what is added must not be there, what is updated must. Where
              the file leaves a cell blank, rules see what the record has. A sheet of a workbook is
              named the same way. The variable holds the URL of the database.

          --released <FILE>
              Ready rows that were handed over earlier, which count as there; may be given several times

          --today <DATE>
              The day that "today" means, as yyyy-MM-dd [default: the local date]

          --since <EARLIER.json>
              Say what became of the findings of an earlier round: a report that --report wrote as .json
              
              Rows are followed by their key, or by their sound cells where there is none, never by
              their number.

          --threads <N>
              How many threads to use [default: one for each processor]

          --memory <SIZE>
              About how much memory to use, such as 64MiB: of files with very many rows, what is kept of
              each goes to the temporary folder beyond that
              
              [default: 1GiB]

      -h, --help
              Print help (see a summary with '-h')

    Limits:
          --most-changes <N|P%>
              Shut the gate where more records would be added or changed: a number, or a share of those
              that are there

          --most-emptied <N>
              Shut the gate where more values would be emptied

    Outputs:
          --findings <FILE>
              Write every finding to this file: .csv or .ndjson

          --ready <FILE>
              Write the rows that may load, in the target's form: .csv, .xlsx, .json or .ndjson

          --held <FILE>
              Write the other rows as they came, each with its row and reasons; the same forms

          --marked <FILE.xlsx>
              Write the sender's own workbook with the faulty cells filled and noted, the reasons beside
              the rows, and a sheet in front that says what to do: .xlsx, or .xlsm where it has macros
              
              A text becomes such a workbook. When it comes back, it is checked as the file would be:
              nobody needs to take the marks away.

          --report <FILE>
              Write the report to this file: .html, a page for a browser; .md, for a mail; .json, for
              programs and for --since; .sarif, for code review tools; may be given several times

          --receipt <FILE.json>
              Write a receipt for the ready rows, if the gate is open: which bytes passed, and by what
              they were judged

          --signed-by <KEY.pem>
              Sign the receipt with this private key: Ed25519, in PEM

          --format <FORMAT>
              The form of the report on standard output

              Possible values:
              - text:   For people
              - json:   For programs: the report of format 1
              - ndjson: For programs: every finding on a line, then the report without them
              
              [default: text]

          --force
              Overwrite existing outputs; never the input

    How the file is laid out (what is not stated is read off the file, and said):
          --sheet <SHEET>
              The sheet of a workbook, by its name or its number

          --at <POINTER>
              The array of records in a JSON file, as a JSON Pointer such as /data/trees

          --heading-row <ROW>
              The row that holds the headings, as a spreadsheet counts

          --first-row <ROW>
              The first row of the data; rows between it and the headings are passed over

          --last-row <ROW>
              The last row of the data; what follows is passed over

          --delimiter <CHARACTER>
              What stands between cells: comma, semicolon, tab, pipe, space or any other character

          --encoding <NAME>
              The encoding, such as windows-1252, utf-16le or shift_jis

          --by-position
              The file has no headings: its columns are the record's fields, in their order

          --short-rows <SHORT_ROWS>
              What a row is whose last cells are missing: held, or filled up with blank cells, as some
              programs drop those [default: hold]

              Possible values:
              - hold:  The row is held: its cells may stand under the wrong headings
              - blank: The missing cells are blank

          --max-row <SIZE>
              The longest row, and so the largest cell [default: 32MiB, at most 1GiB]

          --max-columns <N>
              The most columns [default: 16384, at most 65534]

          --max-expansion <TIMES>
              How many times its size a packed file may unpack to, beyond 256 MiB [default: 200]; the
              text of a sheet a tenth of that, beyond 4 GiB

    What is said:
      -q, --quiet
              Say nothing on standard output, and one line on standard error when the gate is shut

      -v, --verbose...
              Say on standard error what is done and how long it takes; twice for more

          --color <WHEN>
              When to use colours: auto, always or never; auto means on a terminal, unless NO_COLOR is
              set
              
              [default: auto]

    Examples, on the demo data (`tidy-gate demo` writes it):
      tidy-gate check ward-7-survey.csv --record tree.record.toml
      tidy-gate check ward-7-survey.csv --record tree.record.toml --ready ready.csv --held held.csv
    "#);
}

#[test]
fn the_help_of_the_program_is_short() {
    insta::assert_snapshot!(Folder::new().run("--help").out, @r"
    Checks prepared import files against a record schema, before any load runs

    Usage: tidy-gate [OPTIONS] <COMMAND>

    Commands:
      check        May this file go through? The verdict, the reasons, the ready rows and the held rows
      mend         Write a copy in which all is mended that needs no guess, and a log of it
      effects      What loading the ready rows would do to the records that are there, field by field
      receipt      Whether these are the very rows that passed: held against the receipt of the check
      reconcile    Whether all that was handed over has arrived: ready rows held against the records
                   after the load
      draft        Draft a record schema from an export, a data dictionary, SQL, CSVW or JSON Schema
      fields       List or search the fields of a record schema, or hand it to other systems
      template     Write a sheet to fill: headings, help, drop-downs, the right formats
      peek         What a file holds: its layout, its columns, a few rows
      match        Which column is which field, how sure that is, and a plan that keeps it
      explain      What a finding means, why it matters, how to put it right
      completions  Completions of commands and options for a shell, or the man pages
      demo         Write the demo data into a folder and walk through a check on it
      help         Print this message or the help of the given subcommand(s)

    Options:
      -h, --help     Print help
      -V, --version  Print version

    What is said:
      -q, --quiet         Say nothing on standard output, and one line on standard error when the gate
                          is shut
      -v, --verbose...    Say on standard error what is done and how long it takes; twice for more
          --color <WHEN>  When to use colours: auto, always or never; auto means on a terminal, unless
                          NO_COLOR is set [default: auto]

    Exit codes: 0 the gate is open, 1 the gate is shut, 2 the work could not be done, 130 interrupted.
    Start with: tidy-gate demo
    ");
}

#[test]
fn the_list_of_codes_goes_by_scope() {
    insta::assert_snapshot!(Folder::new().run("explain").out, @"
    The file
     file-empty          stop  the file holds no rows                               
     quote-open          stop  a quoted cell never closes                           
     quote-stray         warn  a quote stands where it has no place                 
     row-width           stop  the row has more or fewer cells than there are       
                               headings                                             
     encoding-doubt      stop  a cell holds bytes that cannot be read in the file's 
                               encoding                                             
     layout-guessed      note  the layout was read off the file                     
     total-row           warn  the last row is a total                              
     example-row         warn  the template's example was left in                   
     control-characters  warn  a control character in a cell                        
     blank-tail          note  the file ends in rows without values                 
     plan-outdated       stop  the plan no longer fits the file                     
     template-outdated   warn  the template is of another version of the record     
                               schema                                               
     total-wrong         stop  the last row is called a total, but does not sum     
     footer-row          warn  the last row is a note below the table               
     record-unreadable   stop  the record cannot be read                            
     sheet-unclear       stop  several sheets hold data that fits                   
     rows-hidden         warn  rows are hidden                                      
     columns-hidden      note  columns are hidden                                   
     filter-active       warn  a filter was left on                                 
     cells-merged        warn  cells are merged

    Headings
     heading-blank        warn  a column holds values but has no heading            
     heading-repeated     warn  the same heading stands twice                       
     heading-unpaired     warn  no field has this heading                           
     heading-shared       stop  two columns claim the same field                    
     field-missing        stop  a needed field has no column                        
     field-read-only      warn  a column for a field that the target computes       
     heading-close        warn  the heading is like that of a field without a       
                                column                                              
     column-misfit        stop  most values do not fit the heading's field, and     
                                another column's would                              
     field-out-of-scope   stop  a column for a field that this file may not change  
     mode-out-of-scope    stop  this file may not be loaded in this mode            
     form-guessed         note  how the column is written was read off its cells    
     default-over-column  stop  a default would fill a field that a column seems to 
                                be meant for                                        
     rule-unchecked       warn  a rule was not checked                              
     reference-unchecked  warn  references were not looked up

    Values
     formula-stale         warn  a formula without a stored result                  
     number-as-text        note  a number kept as text                              
     read-only-changed     stop  a field would change that must not                 
     required-blank        stop  a required value is missing                        
     integer-bad           stop  not a whole number                                 
     decimal-bad           stop  not a number                                       
     digits-too-many       stop  more digits than the field holds                   
     out-of-range          stop  outside the permitted range                        
     text-too-long         stop  longer than the field                              
     text-too-short        stop  shorter than permitted                             
     pattern-broken        stop  not of the expected form                           
     case-wrong            stop  in the wrong case                                  
     boolean-bad           stop  neither yes nor no                                 
     date-bad              stop  not a date in any permitted form                   
     date-impossible       stop  a day that does not exist                          
     date-unclear          stop  day and month could be either way round            
     date-two-digit-year   warn  a year of two digits                               
     off-list              stop  not a value of the picklist                        
     off-list-retired      stop  a retired value of the picklist                    
     email-bad             stop  not an e-mail address                              
     decimal-mark          stop  a number that reads well with the other decimal    
                                 mark                                               
     clear-not-allowed     stop  this cannot be emptied                             
     time-bad              stop  not a time, or not a permitted form of one         
     phone-bad             stop  not a phone number                                 
     url-bad               stop  not an address of the web                          
     uuid-bad              stop  not a UUID                                         
     list-too-many         stop  more values in a cell than the field takes         
     list-repeated         stop  the same value twice in one cell                   
     list-separator        stop  several values with another separator between them 
     reference-unknown     stop  no such key                                        
     reference-unclear     stop  this stands for several keys                       
     reference-cycle       warn  records refer to each other in a circle            
     number-unclear        stop  the mark could part thousands or begin the         
                                 decimals                                           
     date-order-borrowed   warn  the order of day and month was taken over from     
                                 dates of another form                              
     spreadsheet-error     stop  a spreadsheet's error instead of a value           
     zeros-lost            stop  leading zeros were lost                            
     precision-lost        warn  digits were lost in a spreadsheet                  
     date-as-number        stop  a spreadsheet's day number instead of a date       
     space-stray           note  stray spaces                                       
     characters-invisible  warn  an invisible character                             
     characters-lookalike  warn  letters that only look like those beside them      
     placeholder           note  perhaps a placeholder                              
     formula-like          warn  text that a spreadsheet would run

    Rows
     row-blank                  note  rows without a value stand between the others 
     rule-broken                stop  a condition between fields is broken          
     rule-required              stop  a rule requires this field here               
     rule-forbidden             stop  a rule forbids this field here                
     block-incomplete           stop  a block of fields is filled in part           
     combination-not-permitted  stop  these values are not permitted together       
     row-out-of-scope           stop  the row is not one that this file may change

    Keys
     key-blank            stop  the key, or a part of it, is missing                
     key-repeated         stop  the same key stands in several rows                 
     unique-repeated      stop  a combination that must not repeat stands in        
                                several rows                                        
     key-exists           stop  a record with this key is there already             
     unique-exists        stop  another record that is there has this combination   
     key-not-found        stop  no record with this key is there                    
     key-numbered         stop  the target numbers new records itself               
     existing-repeated    warn  existing records have the same key                  
     existing-unread      warn  values of existing records cannot be read           
     key-none             note  the record has no key                               
     key-nearly-repeated  warn  the key is nearly the same as another               
     row-repeated         warn  the whole row stands more than once                 
     duplicate-likely     warn  different keys, but the rows describe the same      
                                thing

    Lines
     header-differs       stop  the rows of one record disagree              
     line-repeated        stop  the same line stands twice in one record     
     line-without-header  stop  a line stands above any record               
     lines-apart          stop  the rows of one record do not stand together 
     lines-too-few        stop  the record has too few lines                 
     lines-too-many       stop  the record has too many lines

    Causes of many findings at once
     blank-below-groups  cells are blank below one that was meant for all of them   
     cells-shifted       cells stand one column further right than they belong      
     columns-swapped     the values of two columns stand under each other's         
                         headings                                                   
     date-form           a column writes its dates or times in another form than    
                         was stated                                                 
     date-order          day and month could be either way round                    
     dates-moved         the dates of a column have all moved by the same time      
     decimal-mark-other  numbers are written with the other decimal mark            
     encoding-wrong      some bytes are no text in the file's encoding              
     headings-repeated   the headings stand again among the rows                    
     keys-dragged        values that count up row by row where they should stay or  
                         be others                                                  
     leading-zeros       leading zeros are lost                                     
     letter-case         values are in the wrong case                               
     mode-wrong          the file is loaded in the wrong mode                       
     one-value           nearly all of a fault stands in rows with one value of     
                         another column                                             
     record-wrong        few headings belong to this record schema                  
     rows-not-records    totals or notes stand among the rows                       
     rows-pasted-twice   a block of rows stands in the file twice                   
     separator-other     several values of a cell are parted by another mark than   
                         the schema's                                               
     stray-characters    cells hold spaces or invisible characters that nobody      
                         meant                                                      
     text-decoded-twice  letters beyond ASCII were turned into two or three others  
     unit-in-cells       units stand in the cells of a number                       
     words-off-list      words that are not on a field's list                       
     yes-no-words        yes and no in other words

    Words of reports
     cause        one explanation that covers many findings                         
     effects      what loading the ready rows would do to the records that are      
                  there                                                             
     fingerprint  eight bytes that stand for a finding or a row, and show nothing   
                  of it                                                             
     gone         held in the round before, and no longer in the file               
     held         a row with a stop                                                 
     left-out     a row that is no record, or that the plan passes over             
     new          not there in the round before                                     
     open         still there since the round before; or, of the gate: the file may 
                  be loaded                                                         
     ready        a row without a stop                                              
     receipt      a small file that says which bytes passed, and what they were     
                  judged by                                                         
     released     ready rows that were handed over in an earlier round              
     round        a file that comes back after mending                              
     seal         the SHA-256 of a receipt over itself                              
     settled      there in the round before, and no more

    tidy-gate explain CODE tells why a finding matters, how a cause comes about and how to put it right, what a word means.
    ");
}

#[test]
fn explain_tells_one_code_or_lists_all() {
    let folder = Folder::new();
    let list = folder.run("explain").out;
    for code in tidy_gate_core::catalogue::Code::ALL {
        assert!(list.contains(code.name()), "{code}");
    }
    insta::assert_snapshot!(folder.run("explain OFF-LIST").out, @"
    off-list  stop, a warning on an open list
    not a value of the picklist

    Why it matters
      The target permits only the values of its picklist here.

    How to put it right
      Use a permitted value; where a nearest one is named, check that it is what was
      meant.

    Not so
      Goood

    But so
      Good
    ");
}

#[test]
fn the_demo_writes_its_world_walks_and_can_be_run_again() {
    let folder = Folder::new();
    let ran = folder.run("demo");
    assert_eq!((ran.code, ran.err.as_str()), (0, ""));
    let made = folder.path("tidy-gate-demo");
    for name in [
        "tree.record.toml",
        "species.csv",
        "ward-3-survey.csv",
        "ward-7-survey.csv",
        "ward-5-survey.xlsx",
        "inspection.record.toml",
        "ward-3-inspections.csv",
        "registry.db",
    ] {
        assert!(
            std::fs::read(made.join(name)).unwrap() == std::fs::read(demo().join(name)).unwrap(),
            "{name}"
        );
    }
    for name in ["ready.csv", "held.csv", "ward-7-marked.xlsx", "ward-7-first.html", "ward-7-receipt.json"] {
        assert!(made.join(name).exists(), "{name}");
    }
    assert_eq!(ran.out.matches("GATE OPEN").count(), 3, "the last is the answer of the contractor");
    assert_eq!(ran.out.matches("GATE SHUT").count(), 8);
    assert_eq!(ran.out.matches(" NOT ALL ").count(), 1);
    assert_eq!(ran.out.matches(" RECEIPT VALID ").count(), 1);
    // Each command that is shown works as it is typed.
    let typed = ran.out.replace(" \\\n", " ");
    let shown: Vec<_> = typed.lines().filter_map(|line| line.trim().strip_prefix("tidy-gate ")).collect();
    assert!(shown.len() > 8, "{shown:?}");
    // Words are split at spaces, so a command with quoted words is tried elsewhere.
    for words in shown.into_iter().filter(|words| !words.contains('\'')) {
        // What somebody decides is kept; here nobody does.
        let words = words.split(" --save ").next().unwrap_or(words);
        let words = words
            .replace(" --ready ready.csv", "")
            .replace(" --held held.csv", "")
            .replace(" --findings findings.csv", "")
            .replace(" -o mended.csv", " -o mended.csv --force")
            .replace(" --marked marked.xlsx", " --marked marked.xlsx --force");
        assert!(folder.run(&words).code < 2, "{words}");
    }
    assert_eq!(folder.run("demo").code, 0, "a second time");
    // What somebody worked on in between is left alone.
    let held = std::fs::read(made.join("held.csv")).unwrap();
    std::fs::write(made.join("held.csv"), [&held[..], b"\n"].concat()).unwrap();
    let ran = folder.run("demo");
    assert!(ran.code == 2 && ran.err.contains("held.csv exists and would be overwritten"), "{}", ran.err);
    std::fs::write(made.join("held.csv"), held).unwrap();
    std::fs::write(made.join("species.csv"), "mine").unwrap();
    let ran = folder.run("demo");
    assert!(ran.code == 2 && ran.err.contains("is not the demo's own"), "{}", ran.err);
    assert_eq!(folder.run("demo --force").code, 0);
}
