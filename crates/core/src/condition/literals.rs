//! Values as conditions write them.

use super::fault::ConditionFault;
use super::model::{Node, Scalar, Type};
use crate::value::{Date, Moment, TimeOfDay};
use rust_decimal::Decimal;
use sqlparser::ast::{DataType, Value};
use std::borrow::Cow;

/// A part of a condition and its type.
pub(super) type Read = Result<(Node, Type), ConditionFault>;

pub(super) fn ordered(kind: Type) -> Result<(), ConditionFault> {
    match kind {
        Type::Boolean => Err(ConditionFault::new("yes and no have no order").help("use = or <>")),
        _ => Ok(()),
    }
}

pub(super) fn literal(value: &Value) -> Read {
    match value {
        Value::Number(text, _) => match Decimal::from_str_exact(text) {
            Ok(number) => Ok((Node::Value(Scalar::Number(number)), Type::Number)),
            Err(_) => Err(ConditionFault::new(format!(
                "{text} has more digits than numbers of conditions may have (28)"
            ))),
        },
        Value::SingleQuotedString(text) => {
            Ok((Node::Value(Scalar::Text(Cow::Owned(text.clone()))), Type::Text))
        }
        Value::Boolean(truth) => Ok((Node::Value(Scalar::Boolean(*truth)), Type::Boolean)),
        Value::Null => Ok((Node::Null, Type::Null)),
        other => Err(ConditionFault::new(format!("`{other}` is no value that is read"))
            .help("a text stands in single quotes: 'x'")),
    }
}

pub(super) fn typed_literal(data_type: &DataType, value: &Value) -> Read {
    let text = value.clone().into_string().unwrap_or_default();
    let found = match data_type {
        DataType::Date => Date::iso(&text).map(|date| (Node::Value(Scalar::Date(date)), Type::Date)),
        DataType::Time(..) => TimeOfDay::iso(&text).map(|time| (Node::Value(Scalar::Time(time)), Type::Time)),
        DataType::Timestamp(..) => {
            Moment::iso(&text).map(|moment| (Node::Value(Scalar::Moment(moment.instant())), Type::Moment))
        }
        other => {
            return Err(
                ConditionFault::new(format!("{other} '…' is not read")).help("DATE, TIME and TIMESTAMP are")
            );
        }
    };
    found.ok_or_else(|| {
        ConditionFault::new(format!("'{text}' is no {}", data_type.to_string().to_lowercase()))
            .help("write it as ISO does: DATE '2024-12-31'")
    })
}
