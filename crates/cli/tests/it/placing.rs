//! Where outputs come to stand: all of a run or none, nothing that is not theirs, and what a killed run left is cleared away.

use crate::tool::{Folder, ran};
use crate::whole_rows::schema;
use std::os::unix::fs::{PermissionsExt, symlink};
use std::process::{Command, Stdio};

fn folder() -> Folder {
    let folder = Folder::new();
    folder.write("r.record.toml", schema("key = [\"k\"]\nk: text; required = true\nn: integer\n"));
    folder.write("table.csv", "k,n\na,1\nb,x\n");
    folder
}

const WORDS: &str = "check table.csv --record r.record.toml";

fn mode(folder: &Folder, name: &str) -> u32 {
    folder.path(name).metadata().unwrap().permissions().mode() & 0o777
}

#[test]
fn the_file_behind_standard_input_is_never_overwritten() {
    let folder = folder();
    folder.write("link.csv", "");
    std::fs::remove_file(folder.path("link.csv")).unwrap();
    std::fs::hard_link(folder.path("table.csv"), folder.path("link.csv")).unwrap();
    for output in ["--ready table.csv", "--held table.csv", "--findings link.csv"] {
        let mut command = folder.command(&format!("check - --record r.record.toml {output} --force"));
        command.stdin(std::fs::File::open(folder.path("table.csv")).unwrap());
        let told = ran(command.output().unwrap());
        assert_eq!(told.code, 2, "{output}: {}", told.err);
        assert!(told.err.contains("would overwrite the input"), "{output}: {}", told.err);
        assert_eq!(folder.read("table.csv"), "k,n\na,1\nb,x\n");
    }
}

#[test]
fn an_output_replaces_files_alone_and_leaves_them_what_they_were() {
    let folder = folder();
    folder.write("ready.csv", "old").write("real.csv", "old");
    std::fs::set_permissions(folder.path("ready.csv"), PermissionsExt::from_mode(0o640)).unwrap();
    symlink("real.csv", folder.path("held.csv")).unwrap();
    let told = folder.run(&format!("{WORDS} --ready ready.csv --held held.csv --force"));
    assert_eq!(told.code, 1, "{}", told.err);
    assert_eq!((folder.read("ready.csv").as_str(), mode(&folder, "ready.csv")), ("k,n\na,1\n", 0o640));
    // The link is still one, and what it stands for is new.
    assert!(folder.path("held.csv").symlink_metadata().unwrap().is_symlink());
    assert!(folder.read("real.csv").contains("integer-bad"), "{}", folder.read("real.csv"));

    symlink("nowhere.csv", folder.path("dangling.csv")).unwrap();
    symlink("/dev/null", folder.path("device.csv")).unwrap();
    let made = Command::new("mkfifo").arg(folder.path("pipe.csv")).status().unwrap();
    assert!(made.success());
    let before = folder.names();
    for (name, message) in [
        ("dangling.csv", "is a link that leads nowhere"),
        ("device.csv", "is a link to something else than a file"),
        ("pipe.csv", "is a pipe, a device or the like"),
    ] {
        let told = folder.run(&format!("{WORDS} --ready new.csv --held {name} --force"));
        assert_eq!((told.code, told.err.lines().count()), (2, 1), "{name}: {}", told.err);
        assert!(told.err.contains(message), "{name}: {}", told.err);
        assert_eq!(folder.names(), before, "{name}");
    }
    // What is saved of a match goes through the same door.
    let told = folder.run("match table.csv --record r.record.toml --save pipe.plan.toml");
    assert_eq!(told.code, 0, "{}", told.err);
    symlink("nowhere.toml", folder.path("away.plan.toml")).unwrap();
    let told = folder.run("match table.csv --record r.record.toml --save away.plan.toml --force");
    assert!(told.code == 2 && told.err.contains("leads nowhere"), "{}", told.err);
}

#[test]
fn who_does_not_get_the_report_is_told_which_outputs_stand() {
    let folder = folder();
    for (words, output) in [
        (format!("{WORDS} --ready ready.csv"), "ready.csv"),
        ("match table.csv --record r.record.toml --save s.plan.toml".to_owned(), "s.plan.toml"),
        ("template r.record.toml -o t.csv".to_owned(), "t.csv"),
        ("draft table.csv -o d.record.toml".to_owned(), "d.record.toml"),
    ] {
        let line = format!("exec {} {words} > /dev/full", env!("CARGO_BIN_EXE_tidy-gate"));
        let told = ran(Command::new("sh").arg("-c").arg(line).current_dir(folder.path("")).output().unwrap());
        assert_eq!(told.code, 2, "{words}: {}", told.err);
        let is_said = told.err.contains("cannot write to standard output") && told.err.contains(output);
        assert!(is_said && folder.path(output).is_file(), "{words}: {}", told.err);
    }
    assert_eq!(folder.read("ready.csv"), "k,n\na,1\n");
}

#[test]
fn what_a_killed_run_left_goes_with_the_next_run() {
    let folder = folder();
    let mut child = folder
        .command("check - --record r.record.toml --ready ready.csv --held held.csv")
        .stdin(Stdio::piped())
        .stdout(Stdio::null())
        .spawn()
        .unwrap();
    let parts = || folder.names().into_iter().filter(|name| name.starts_with(".tidy-gate-")).count();
    for _ in 0..400 {
        if parts() == 2 {
            break;
        }
        std::thread::sleep(std::time::Duration::from_millis(25));
    }
    assert_eq!(parts(), 2);
    // While it lives, nobody touches its files.
    assert_eq!(folder.run(&format!("{WORDS} --ready first.csv")).code, 1);
    assert_eq!(parts(), 2);
    child.kill().unwrap();
    child.wait().unwrap();
    assert_eq!(parts(), 2);
    assert_eq!(folder.run(&format!("{WORDS} --ready second.csv")).code, 1);
    assert_eq!(parts(), 0);
}

#[test]
fn two_runs_at_once_leave_the_outputs_of_one() {
    let folder = folder();
    for (name, ready, held) in [("one", "a", "b"), ("two", "c", "d")] {
        folder.write(&format!("{name}.csv"), format!("k,n\n{ready},1\n{held},x\n"));
    }
    let start = |name: &str| {
        let words =
            format!("check {name}.csv --record r.record.toml --ready ready.csv --held held.csv --force");
        folder.command(&words).stdout(Stdio::null()).spawn().unwrap()
    };
    for turn in 0..25 {
        let (mut one, mut two) = (start("one"), start("two"));
        assert_eq!((one.wait().unwrap().code(), two.wait().unwrap().code()), (Some(1), Some(1)));
        let (ready, held) = (folder.read("ready.csv"), folder.read("held.csv"));
        let whose = (ready.contains("a,1"), held.contains(",b,x"));
        assert!(whose == (true, true) || whose == (false, false), "turn {turn}\n{ready}{held}");
    }
    assert!(!folder.names().iter().any(|name| name.starts_with(".tidy-gate-")), "{:?}", folder.names());
}
