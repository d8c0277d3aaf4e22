//! What scripts and shells use: silence, streams, times on standard error, completions, man pages.

use crate::tool::Folder;
use serde_json::Value;

const RECORD: &str = "format = 1\nrecord = \"loan\"\nkey = [\"no\"]\n\
    [[field]]\nname = \"no\"\nkind = \"text\"\n[[field]]\nname = \"copies\"\nkind = \"integer\"\n";

fn folder() -> Folder {
    let folder = Folder::new();
    folder.write("r.record.toml", RECORD).write("good.csv", "no,copies\nL1,2\n");
    folder.write("bad.csv", "no,copies\nL1,2\nL2,many\nL1,3\n");
    folder
}

#[test]
fn quiet_says_nothing_but_that_the_gate_is_shut() {
    let folder = folder();
    let shut = "gate shut: bad.csv: The file may not be loaded: every one of its 3 rows is held.\n";
    for (words, code, err) in [
        ("check good.csv --record r.record.toml -q", 0, ""),
        ("check bad.csv --record r.record.toml --quiet", 1, shut),
        ("-q check bad.csv --record r.record.toml --format json", 1, shut),
        ("check bad.csv --record r.record.toml -q --format ndjson", 1, shut),
        ("explain date-bad -q", 0, ""),
    ] {
        let ran = folder.run(words);
        assert_eq!((ran.code, ran.out.as_str(), ran.err.as_str()), (code, "", err), "{words}");
    }
    // What could not be done is always said.
    let ran = folder.run("check none.csv --record r.record.toml -q");
    assert!(ran.code == 2 && ran.err.contains("none.csv"), "{}", ran.err);
}

#[test]
fn findings_are_streamed_and_the_report_comes_last() {
    let folder = folder();
    let check = "check bad.csv --record r.record.toml --today 2026-11-25";
    let ran = folder.run(&format!("{check} --format ndjson --findings all.ndjson"));
    let (findings, head) = ran.out.trim_end().rsplit_once('\n').unwrap();
    // The same list goes to a file and to standard output.
    assert_eq!(format!("{findings}\n"), folder.read("all.ndjson"));
    let mut head: Value = serde_json::from_str(head).unwrap();
    let mut whole: Value = serde_json::from_str(&folder.run(&format!("{check} --format json")).out).unwrap();
    let listed = whole["findings"].as_array().unwrap().len();
    assert_eq!((findings.lines().count(), head["findings_left_out"].as_u64()), (listed, Some(listed as u64)));
    for report in [&mut head, &mut whole] {
        (report["findings"], report["findings_left_out"]) = (Value::Null, Value::Null);
    }
    assert_eq!(head, whole);
}

#[test]
fn verbose_tells_stages_and_times_aside() {
    let folder = folder();
    let check = "check good.csv --record r.record.toml --today 2026-11-25";
    let (plain, told) = (folder.run(check), folder.run(&format!("-v {check}")));
    assert_eq!((plain.err.as_str(), &plain.out), ("", &told.out));
    let lines: Vec<&str> = told.err.lines().collect();
    assert!(lines.iter().all(|line| line.contains(" ms  ")), "{}", told.err);
    assert!(
        lines.iter().any(|line| line.ends_with("  1 row judged")) && told.err.trim_end().ends_with("in all")
    );
}

#[test]
fn colours_are_as_stated() {
    let folder = folder();
    let check = "check bad.csv --record r.record.toml";
    for (words, variable, coloured) in [
        ("", "", false),
        ("", "CLICOLOR_FORCE", true),
        ("--color always", "", true),
        ("--color always", "NO_COLOR", true),
        ("--color never", "CLICOLOR_FORCE", false),
    ] {
        let mut command = folder.command(&format!("{check} {words}"));
        if !variable.is_empty() {
            command.env(variable, "1");
        }
        let out = command.output().unwrap().stdout;
        assert_eq!(out.contains(&0x1B), coloured, "{words} {variable}");
    }
}

#[test]
fn shells_and_man_know_every_command() {
    let folder = folder();
    let help = folder.run("--help").out;
    let commands = help.split_once("Commands:\n").unwrap().1.split_once("\n\n").unwrap().0;
    let commands: Vec<&str> = commands
        .lines()
        .filter(|line| line.starts_with("  ") && !line.starts_with("    "))
        .map(|line| line.split_whitespace().next().unwrap())
        .filter(|name| *name != "help")
        .collect();
    assert!(commands.len() >= 12, "{commands:?}");
    for shell in ["bash", "zsh", "fish", "powershell"] {
        let text = folder.run(&format!("completions {shell}")).out;
        assert!(commands.iter().all(|name| text.contains(name)) && text.contains("since"), "{shell}");
    }
    assert_eq!(folder.run("completions man --to pages").code, 0);
    for name in &commands {
        let page = folder.read(&format!("pages/tidy-gate-{name}.1"));
        assert!(page.starts_with(".ie") || page.contains(".TH"), "{name}");
        assert!(page.contains("Examples"), "{name}");
    }
    // A shell that is there takes its completions.
    let text = folder.run("completions bash").out;
    folder.write("c.bash", text);
    let script = "source c.bash && complete -p tidy-gate";
    if let Ok(bash) =
        std::process::Command::new("bash").args(["-c", script]).current_dir(folder.path("")).output()
    {
        assert!(bash.status.success(), "{}", String::from_utf8_lossy(&bash.stderr));
    }
}
