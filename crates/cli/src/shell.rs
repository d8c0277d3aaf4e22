//! Words and paths as a shell takes them, so that what is printed can be typed or copied.

use std::path::Path;
use tidy_gate_core::letters::is_odd;

/// A word as a shell takes it.
pub(crate) fn quoted(word: &str) -> String {
    let plain = |c: char| c.is_alphanumeric() || "-_./:=,+@%".contains(c);
    if !word.is_empty() && word.chars().all(plain) {
        word.to_owned()
    } else if word.contains(is_odd) {
        in_bytes(word.as_bytes())
    } else {
        format!("'{}'", word.replace('\'', r"'\''"))
    }
}

/// A path as it can be typed, whatever it is called.
pub(crate) fn quoted_path(path: &Path) -> String {
    // What begins with a dash would be an option.
    let is_option = path != Path::new("-") && path.as_os_str().as_encoded_bytes().starts_with(b"-");
    let path = if is_option { Path::new(".").join(path) } else { path.to_owned() };
    path.to_str().map_or_else(|| in_bytes(path.as_os_str().as_encoded_bytes()), quoted)
}

/// Letters that are not simply shown, and bytes that are none, as shells take them (POSIX.1-2024, 2.2.4).
fn in_bytes(word: &[u8]) -> String {
    let mut typed = String::from("$'");
    for chunk in word.utf8_chunks() {
        for c in chunk.valid().chars() {
            match c {
                '\'' | '\\' => typed.extend(['\\', c]),
                c if is_odd(c) => {
                    let mut bytes = [0; 4];
                    c.encode_utf8(&mut bytes)
                        .bytes()
                        .for_each(|byte| typed.push_str(&format!("\\x{byte:02x}")));
                }
                c => typed.push(c),
            }
        }
        chunk.invalid().iter().for_each(|byte| typed.push_str(&format!("\\x{byte:02x}")));
    }
    typed.push('\'');
    typed
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_typed_so_that_a_shell_takes_them_as_they_are() {
        for word in [
            "plain",
            "two words",
            "it's",
            "",
            "-x",
            "a\u{202e}b",
            "a\u{9b}\u{1b}'\\",
            "$(ls) `ls` \"x\"",
            "é日本",
        ] {
            let line = format!("printf %s {}", quoted(word));
            let said = std::process::Command::new("bash").args(["-c", &line]).output().unwrap();
            assert_eq!(String::from_utf8(said.stdout).unwrap(), word, "{line}");
        }
        for (path, typed) in
            [("-t.csv", "./-t.csv"), ("-", "-"), ("a b.csv", "'a b.csv'"), ("x/-t.csv", "x/-t.csv")]
        {
            assert_eq!(quoted_path(Path::new(path)), typed);
        }
        #[cfg(unix)]
        {
            use std::os::unix::ffi::OsStrExt;
            let name = std::ffi::OsStr::from_bytes(b"a\xff'b.csv");
            assert_eq!(quoted_path(Path::new(name)), r"$'a\xff\'b.csv'");
        }
    }
}
