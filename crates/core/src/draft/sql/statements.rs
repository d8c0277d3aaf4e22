//! A file of SQL cut into statements, each read by itself: what one engine writes is no reason to refuse the rest.

use sqlparser::ast::Statement;
use sqlparser::dialect::{
    Dialect, GenericDialect, MsSqlDialect, MySqlDialect, PostgreSqlDialect, SQLiteDialect,
};
use sqlparser::keywords::Keyword;
use sqlparser::parser::Parser;
use sqlparser::tokenizer::{Token, Tokenizer};

/// The statements that describe tables, and what could not be read of them.
#[derive(Debug, Default)]
pub(super) struct Found {
    pub(super) statements: Vec<Statement>,
    pub(super) faults: Vec<String>,
}

/// No statement is longer, and no text has more statements.
const LONGEST: usize = 1 << 20;

pub(super) fn read(text: &str) -> Found {
    let mut found = Found::default();
    for statement in cut(text) {
        let words: Vec<String> = statement.split_whitespace().take(5).map(str::to_uppercase).collect();
        let words: Vec<&str> = words.iter().map(String::as_str).collect();
        let describes = match words.as_slice() {
            ["CREATE", rest @ ..] => rest
                .iter()
                .take(4)
                .any(|word| ["TABLE", "TYPE", "UNIQUE"].contains(word) || word.starts_with("TABLE")),
            ["COMMENT", ..] | ["ALTER", "TABLE", ..] => true,
            _ => false,
        };
        if !describes {
            continue;
        }
        match parsed(&statement) {
            Ok(statement) => found.statements.push(statement),
            Err(reason) => {
                let start: String = statement.split_whitespace().collect::<Vec<_>>().join(" ");
                let start: String = start.chars().take(60).collect();
                found.faults.push(format!("the statement {start} … could not be read: {reason}"));
            }
        }
    }
    found
}

/// The most operators in a row: each nests what stands before it, for whoever reads it and whoever lets go of it.
const MOST_OPERATORS: usize = 1_000;

/// Whether operators stand in a row that is longer than any that a person writes.
fn is_endless_chain(statement: &str) -> bool {
    let Ok(tokens) = Tokenizer::new(&GenericDialect {}, statement).tokenize() else { return false };
    // How many stand in a row, in each pair of brackets that is open.
    let mut counts = vec![0_usize];
    for token in &tokens {
        match token {
            Token::LParen => counts.push(0),
            Token::RParen if counts.len() > 1 => drop(counts.pop()),
            Token::Comma => counts.iter_mut().last().into_iter().for_each(|count| *count = 0),
            Token::Word(word) if !OPERATORS.contains(&word.keyword) => {}
            Token::Whitespace(_) | Token::Number(..) | Token::SingleQuotedString(_) => {}
            _ => {
                let Some(count) = counts.last_mut() else { return true };
                *count += 1;
                if *count > MOST_OPERATORS {
                    return true;
                }
            }
        }
    }
    false
}

/// Words that join what stands on both of their sides.
const OPERATORS: [Keyword; 6] =
    [Keyword::AND, Keyword::OR, Keyword::XOR, Keyword::IS, Keyword::LIKE, Keyword::COLLATE];

fn parsed(statement: &str) -> Result<Statement, String> {
    let dialects: [&dyn Dialect; 5] =
        [&GenericDialect {}, &PostgreSqlDialect {}, &MsSqlDialect {}, &MySqlDialect {}, &SQLiteDialect {}];
    let mut first = None;
    if statement.len() > LONGEST {
        return Err("it is longer than 1 MiB".to_owned());
    }
    if is_endless_chain(statement) {
        return Err(format!("more than {MOST_OPERATORS} operators stand in a row"));
    }
    for dialect in dialects {
        match Parser::parse_sql(dialect, statement) {
            Ok(mut statements) if statements.len() == 1 => {
                return statements.pop().ok_or_else(|| "it is empty".to_owned());
            }
            Ok(_) => {}
            Err(error) => first = first.or(Some(error.to_string())),
        }
    }
    let reason = first.unwrap_or_else(|| "it is no single statement".to_owned());
    Err(reason.trim_start_matches("sql parser error: ").to_owned())
}

/// The statements, without comments of whole lines, orders to a program (`\connect`) and the data of dumps.
fn cut(text: &str) -> Vec<String> {
    let mut clean = String::with_capacity(text.len());
    let mut is_data = false;
    for line in text.lines() {
        if is_data {
            is_data = line.trim_end() != "\\.";
            continue;
        }
        if line.starts_with('\\')
            || line.trim_start().starts_with("--")
            || line.trim().eq_ignore_ascii_case("go")
        {
            // A separator of its own in some tools.
            clean.push_str(if line.trim().eq_ignore_ascii_case("go") { ";\n" } else { "\n" });
            continue;
        }
        let upper = line.trim_start().to_uppercase();
        is_data = upper.starts_with("COPY ") && upper.contains("FROM STDIN");
        if !is_data {
            clean.push_str(line);
            clean.push('\n');
        }
    }
    let mut statements = Vec::new();
    let (mut start, mut at) = (0, 0);
    let bytes = clean.as_bytes();
    while let Some(&byte) = bytes.get(at) {
        let rest = clean.get(at..).unwrap_or_default();
        at += match byte {
            b'\'' | b'"' | b'`' => {
                1 + bytes.iter().skip(at + 1).position(|b| *b == byte).map_or(rest.len(), |n| n + 1)
            }
            b'-' if rest.starts_with("--") => rest.find('\n').unwrap_or(rest.len()),
            b'/' if rest.starts_with("/*") => rest.find("*/").map_or(rest.len(), |n| n + 2),
            b'$' => dollar_quoted(rest).unwrap_or(1),
            b';' => {
                statements.push(clean.get(start..at).unwrap_or_default().trim().to_owned());
                start = at + 1;
                1
            }
            _ => 1,
        };
    }
    statements.push(clean.get(start..).unwrap_or_default().trim().to_owned());
    statements.retain(|statement| !statement.is_empty());
    statements
}

/// The length of a text in dollar quotes, as PostgreSQL has them.
fn dollar_quoted(rest: &str) -> Option<usize> {
    let close = rest.get(1..)?.find('$')? + 2;
    let tag = rest.get(..close)?;
    let is_tag = tag.trim_matches('$').chars().all(|c| c.is_alphanumeric() || c == '_');
    let end = rest.get(close..)?.find(tag)?;
    is_tag.then_some(close + end + tag.len())
}
