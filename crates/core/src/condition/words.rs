//! A condition in the words of people who fill in a sheet; nothing for what only SQL says well.

use super::model::{Condition, Node, Order, Scalar};
use crate::schema::RecordSchema;

impl Condition {
    /// The condition in words, such as "Condition is Dead".
    #[must_use]
    pub fn words(&self, schema: &RecordSchema) -> Option<String> {
        words(&self.root, schema)
    }
}

fn words(node: &Node, schema: &RecordSchema) -> Option<String> {
    let label = |field: usize| schema.fields.get(field).map(|field| field.label.clone());
    Some(match node {
        Node::And(one, other) => format!("{} and {}", words(one, schema)?, words(other, schema)?),
        Node::Or(one, other) => format!("{} or {}", words(one, schema)?, words(other, schema)?),
        Node::Field(field) => format!("{} is yes", label(*field)?),
        Node::Not(inner) => match &**inner {
            Node::Field(field) => format!("{} is no", label(*field)?),
            _ => return None,
        },
        Node::IsNull(inner, negated) => match &**inner {
            Node::Field(field) => {
                format!("{} is {}", label(*field)?, if *negated { "filled" } else { "blank" })
            }
            _ => return None,
        },
        Node::Member(code, field) => format!("{} has {}", label(*field)?, value(*field, code, schema)),
        Node::In(inner, list, negated) => {
            let Node::Field(field) = &**inner else { return None };
            let values: Option<Vec<String>> = list.iter().map(|one| literal(*field, one, schema)).collect();
            let is = if *negated { "is none of" } else { "is" };
            let between = if *negated { ", " } else { " or " };
            format!("{} {is} {}", label(*field)?, values?.join(between))
        }
        Node::Compare(order, one, other) => match (&**one, &**other) {
            (Node::Field(field), other) => {
                format!("{} {} {}", label(*field)?, order_words(*order), side(*field, other, schema)?)
            }
            (one, Node::Field(field)) => {
                let order = order_words(order.turned());
                format!("{} {order} {}", label(*field)?, side(*field, one, schema)?)
            }
            _ => return None,
        },
        _ => return None,
    })
}

const fn order_words(order: Order) -> &'static str {
    match order {
        Order::Equal => "is",
        Order::Different => "is not",
        Order::Less => "is below",
        Order::AtMost => "is at most",
        Order::More => "is above",
        Order::AtLeast => "is at least",
    }
}

fn side(field: usize, node: &Node, schema: &RecordSchema) -> Option<String> {
    match node {
        Node::Field(other) => schema.fields.get(*other).map(|other| other.label.clone()),
        Node::Today => Some("today".to_owned()),
        node => literal(field, node, schema),
    }
}

fn literal(field: usize, node: &Node, schema: &RecordSchema) -> Option<String> {
    let Node::Value(scalar) = node else { return None };
    Some(match scalar {
        Scalar::Text(text) => value(field, text, schema),
        Scalar::Number(number) => number.normalize().to_string(),
        Scalar::Boolean(truth) => if *truth { "yes" } else { "no" }.to_owned(),
        Scalar::Date(date) => date.to_string(),
        Scalar::Time(time) => time.to_string(),
        Scalar::Moment(_) | Scalar::Ratio(..) => return None,
    })
}

/// A code by its label.
fn value(field: usize, code: &str, schema: &RecordSchema) -> String {
    let list = schema.fields.get(field).and_then(|field| schema.picklists.get(field.stated.picklist?));
    let known = list.and_then(|list| list.values.get(list.of_code(code)?));
    known.and_then(|value| value.label.clone()).unwrap_or_else(|| code.to_owned())
}
