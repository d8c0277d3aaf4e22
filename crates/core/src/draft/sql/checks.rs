//! What the conditions of CHECK say of one column.

use crate::value::truth;
use sqlparser::ast::Value;
use sqlparser::ast::{
    BinaryOperator, DataType, Expr, FunctionArg, FunctionArgExpr, FunctionArguments, InTarget, UnaryOperator,
};

/// What a condition says.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Rule {
    Among(Vec<String>),
    From { value: String, strictly: bool },
    To { value: String, strictly: bool },
    Length { least: Option<u32>, most: Option<u32> },
    Pattern(String),
    NotNull,
}

/// Whether these values are one for yes and one for no.
pub(super) fn are_truths(values: &[String]) -> bool {
    let [one, other] = values else { return false };
    matches!((truth::read(one), truth::read(other)), (Some(one), Some(other)) if one != other)
}

/// The conditions that must all hold; those that let a NULL pass, without that part.
pub(super) fn conjuncts(expr: &Expr) -> Vec<&Expr> {
    match expr {
        Expr::Nested(inner) => conjuncts(inner),
        Expr::BinaryOp { left, op: BinaryOperator::And, right } => {
            let mut all = conjuncts(left);
            all.extend(conjuncts(right));
            all
        }
        Expr::BinaryOp { left, op: BinaryOperator::Or, right } => {
            let sides = [(left, right), (right, left)];
            sides.into_iter().find_map(|(null, other)| beside_null(null, other)).unwrap_or_else(|| vec![expr])
        }
        // Both ends of it, as one.
        _ => vec![expr],
    }
}

/// What is asked of a column when it is filled: conditions of that column alone let a NULL pass anyhow.
fn beside_null<'a>(null: &Expr, other: &'a Expr) -> Option<Vec<&'a Expr>> {
    let Expr::IsNull(inner) = bare(null) else { return None };
    let null = column(inner)?;
    let mut parts = conjuncts(other);
    parts.retain(
        |part| !matches!(bare(part), Expr::IsNotNull(inner) if column(inner).as_ref() == Some(&null)),
    );
    let of = |part: &Expr| between(part).map(|found| found.0).or_else(|| read(part).map(|found| found.0));
    parts.iter().all(|part| of(part).as_ref() == Some(&null)).then_some(parts)
}

/// Without brackets and casts.
fn bare(expr: &Expr) -> &Expr {
    match expr {
        Expr::Nested(inner) => bare(inner),
        Expr::Cast { expr, .. } => bare(expr),
        other => other,
    }
}

/// A condition as rules write it: without the casts that databases add, and with LIKE for its operator.
pub(super) fn condition(expr: &Expr) -> String {
    match expr {
        Expr::Nested(inner) if column(inner).is_some() => condition(inner),
        Expr::Nested(inner) => format!("({})", condition(inner)),
        Expr::UnaryOp { op, expr } => format!("{op} {}", condition(expr)),
        Expr::IsNull(inner) => format!("{} IS NULL", condition(inner)),
        Expr::IsNotNull(inner) => format!("{} IS NOT NULL", condition(inner)),
        Expr::BinaryOp { left, op, right } => {
            let op = match op {
                BinaryOperator::PGLikeMatch => "LIKE".to_owned(),
                BinaryOperator::PGNotLikeMatch => "NOT LIKE".to_owned(),
                op => op.to_string(),
            };
            format!("{} {op} {}", condition(left), condition(right))
        }
        Expr::Cast { expr, data_type, .. } => match (literal(expr), data_type) {
            (Some(_), DataType::Date) => format!("DATE {expr}"),
            _ => condition(expr),
        },
        other => other.to_string(),
    }
}

/// The column that an expression is.
pub(super) fn column(expr: &Expr) -> Option<String> {
    match bare(expr) {
        Expr::Identifier(ident) => Some(ident.value.clone()),
        Expr::CompoundIdentifier(parts) => parts.last().map(|ident| ident.value.clone()),
        _ => None,
    }
}

/// The literal that an expression is, as text.
pub(super) fn literal(expr: &Expr) -> Option<String> {
    match bare(expr) {
        Expr::Value(value) => value_text(&value.value),
        Expr::UnaryOp { op: UnaryOperator::Minus, expr } => literal(expr).map(|text| format!("-{text}")),
        Expr::UnaryOp { op: UnaryOperator::Plus, expr } => literal(expr),
        Expr::TypedString(typed) => value_text(&typed.value.value),
        Expr::Function(function) if is_today(&function.to_string()) => Some("today".to_owned()),
        _ => None,
    }
}

fn is_today(text: &str) -> bool {
    text.to_uppercase().trim_end_matches("()").eq("CURRENT_DATE")
}

/// The column and what is said of it.
pub(super) fn read(expr: &Expr) -> Option<(String, Rule)> {
    match bare(expr) {
        Expr::In { expr, target: InTarget::List(list), negated: false, .. } => {
            let values = list.iter().map(literal).collect::<Option<Vec<_>>>()?;
            Some((column(expr)?, Rule::Among(values)))
        }
        // As dumps of PostgreSQL write IN.
        Expr::AnyOp { left, compare_op: BinaryOperator::Eq, right, .. } => {
            let Expr::Array(array) = bare(right) else { return None };
            let values = array.elem.iter().map(literal).collect::<Option<Vec<_>>>()?;
            Some((column(left)?, Rule::Among(values)))
        }
        Expr::IsNotNull(inner) => Some((column(inner)?, Rule::NotNull)),
        Expr::Like { expr, pattern, negated: false, escape_char: None, .. } => {
            let mut regex = String::new();
            for c in literal(pattern)?.chars() {
                match c {
                    '%' => regex.push_str(".*"),
                    '_' => regex.push('.'),
                    c => regex.push_str(&regex_syntax::escape(&c.to_string())),
                }
            }
            Some((column(expr)?, Rule::Pattern(regex)))
        }
        Expr::BinaryOp { left, op: BinaryOperator::PGRegexMatch, right } => {
            let pattern = literal(right)?;
            let anchored = pattern.strip_prefix('^').and_then(|rest| rest.strip_suffix('$'));
            let pattern = match anchored {
                Some(inner) => inner.to_owned(),
                None => format!(".*(?:{pattern}).*"),
            };
            Some((column(left)?, Rule::Pattern(pattern)))
        }
        Expr::BinaryOp { left, op, right } => comparison(left, op, right),
        _ => None,
    }
}

fn comparison(left: &Expr, op: &BinaryOperator, right: &Expr) -> Option<(String, Rule)> {
    use BinaryOperator::{Eq, Gt, GtEq, Lt, LtEq};
    if let (Some(measured), Some(number)) = (measured(left), literal(right)) {
        let number: u32 = number.parse().ok()?;
        let (least, most) = match op {
            Eq => (Some(number), Some(number)),
            GtEq => (Some(number), None),
            Gt => (Some(number + 1), None),
            LtEq => (None, Some(number)),
            Lt => (None, Some(number.checked_sub(1)?)),
            _ => return None,
        };
        return Some((measured, Rule::Length { least, most }));
    }
    let (name, value, op) = match (column(left), literal(right), literal(left), column(right)) {
        (Some(name), Some(value), ..) => (name, value, op.clone()),
        (_, _, Some(value), Some(name)) => {
            let turned = match op {
                Gt => Lt,
                GtEq => LtEq,
                Lt => Gt,
                LtEq => GtEq,
                other => other.clone(),
            };
            (name, value, turned)
        }
        _ => return None,
    };
    let rule = match op {
        GtEq => Rule::From { value, strictly: false },
        Gt => Rule::From { value, strictly: true },
        LtEq => Rule::To { value, strictly: false },
        Lt => Rule::To { value, strictly: true },
        Eq => Rule::Among(vec![value]),
        _ => return None,
    };
    Some((name, rule))
}

/// The column whose length an expression measures.
fn measured(expr: &Expr) -> Option<String> {
    let Expr::Function(function) = bare(expr) else { return None };
    let name = function.name.to_string().to_lowercase();
    let is_length = ["length", "char_length", "character_length", "len"].contains(&name.as_str());
    let FunctionArguments::List(list) = &function.args else { return None };
    match list.args.as_slice() {
        [FunctionArg::Unnamed(FunctionArgExpr::Expr(of))] if is_length => column(of),
        _ => None,
    }
}

/// A range as two conditions.
pub(super) fn between(expr: &Expr) -> Option<(String, [Rule; 2])> {
    let Expr::Between { expr, negated: false, low, high } = bare(expr) else { return None };
    let rules = [
        Rule::From { value: literal(low)?, strictly: false },
        Rule::To { value: literal(high)?, strictly: false },
    ];
    Some((column(expr)?, rules))
}

/// A value as text.
pub(super) fn value_text(value: &Value) -> Option<String> {
    Some(match value {
        Value::Number(number, _) => number.clone(),
        Value::Boolean(truth) => truth.to_string(),
        Value::Null => "NULL".to_owned(),
        other => other.clone().into_string()?,
    })
}
