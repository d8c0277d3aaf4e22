//! From the text of a condition to its parts, each checked for its kind.

use super::fault::ConditionFault;
use super::like::{Pattern, PatternFault};
use super::literals::{Read, literal, ordered, typed_literal};
use super::model::{Arithmetic, Condition, Function, Node, Order, Scalar, Type};
use crate::likeness;
use crate::schema::raw::KindName;
use crate::schema::record::{Field, Kind, RecordSchema};
use crate::value::{Date, Match, Moment, TimeOfDay};
use sqlparser::ast::{
    BinaryOperator, Expr, FunctionArg, FunctionArgExpr, FunctionArguments, InTarget, UnaryOperator, Value,
};
use sqlparser::dialect::GenericDialect;
use sqlparser::keywords::Keyword;
use sqlparser::parser::Parser;
use sqlparser::tokenizer::{Token, Tokenizer};

/// No condition is longer, and none nests deeper.
const LONGEST: usize = 4_000;
const DEEPEST: usize = 60;

/// Reads a condition over the fields of a record.
///
/// # Errors
/// What is wrong with it, and where.
///
/// ```
/// use tidy_gate_core::{condition::parse, schema::NoLists, schema::RecordSchema};
/// let text = "format = 1\nrecord = \"tree\"\n[[field]]\nname = \"girth\"\nkind = \"decimal\"\n";
/// let schema = RecordSchema::read(text, &mut NoLists).unwrap();
/// assert!(parse("girth > 90", &schema).is_ok() && parse("grith > 90", &schema).is_err());
/// ```
pub fn parse(text: &str, schema: &RecordSchema) -> Result<Condition, ConditionFault> {
    if text.len() > LONGEST {
        return Err(ConditionFault::new("the condition is longer than 4,000 characters"));
    }
    // A chain of NOT is no nesting for the reader of SQL.
    if text.to_uppercase().matches("NOT").count() > DEEPEST || text.matches('(').count() > 400 {
        return Err(ConditionFault::new("the condition nests too deep"));
    }
    let readable = |error: sqlparser::parser::ParserError| {
        let reason = error.to_string();
        let reason = reason.trim_start_matches("sql parser error: ");
        let at = reason.rsplit_once("Column: ").and_then(|(_, column)| column.trim().parse::<usize>().ok());
        let reason = reason.split(" at Line:").next().unwrap_or(reason);
        let fault = ConditionFault {
            at: at.and_then(|at| at.checked_sub(1)),
            ..ConditionFault::new(format!("not a condition: {reason}"))
        };
        if let Some(word) = field_called_by_a_word_of_sql(text, schema) {
            return fault.help(in_quotes(&word));
        }
        fault.help("such as `condition = 'D'` or `inspected_on >= planted_on`")
    };
    let mut parser =
        Parser::new(&GenericDialect {}).with_recursion_limit(DEEPEST).try_with_sql(text).map_err(readable)?;
    let expr = parser.parse_expr().map_err(readable)?;
    let rest = parser.peek_token();
    if rest.token != Token::EOF {
        let column = usize::try_from(rest.span.start.column).unwrap_or(1);
        let fault = ConditionFault::new(format!("the condition ends before `{}`", rest.token));
        return Err(
            ConditionFault { at: column.checked_sub(1), ..fault }.help("join conditions with AND or OR")
        );
    }
    let mut reader = Reader { schema, fields: Vec::new(), depth: 0 };
    let (root, kind) = reader.read(&expr)?;
    if !matches!(kind, Type::Boolean | Type::Null) {
        return Err(ConditionFault::new(format!("this is {}, not a condition", kind.words())).at(&expr));
    }
    reader.fields.sort_unstable();
    reader.fields.dedup();
    Ok(Condition { root, fields: reader.fields })
}

fn in_quotes(word: &str) -> String {
    format!("`{word}` is a word of SQL: write the field in double quotes, \"{word}\"")
}

/// The first unquoted word of a text that is both a word of SQL and the name of a field.
fn field_called_by_a_word_of_sql(text: &str, schema: &RecordSchema) -> Option<String> {
    let tokens = Tokenizer::new(&GenericDialect {}, text).tokenize().ok()?;
    tokens.into_iter().find_map(|token| match token {
        Token::Word(word) if word.quote_style.is_none() && word.keyword != Keyword::NoKeyword => schema
            .fields
            .iter()
            .any(|field| field.name.eq_ignore_ascii_case(&word.value))
            .then_some(word.value),
        _ => None,
    })
}

struct Reader<'a> {
    schema: &'a RecordSchema,
    fields: Vec<usize>,
    depth: usize,
}

fn boxed(node: Node) -> Box<Node> {
    Box::new(node)
}

/// The type of a field.
fn type_of(field: &Field) -> Type {
    match &field.kind {
        Kind::Picklist(list) => Type::Code(*list),
        _ => field.stated.kind.facts().seen,
    }
}

impl Reader<'_> {
    fn read(&mut self, expr: &Expr) -> Read {
        self.depth += 1;
        if self.depth > 4 * DEEPEST {
            return Err(ConditionFault::new("the condition nests too deep"));
        }
        let read = self.node(expr).map_err(|fault| fault.at(expr));
        self.depth -= 1;
        read
    }

    fn node(&mut self, expr: &Expr) -> Read {
        match expr {
            Expr::Nested(inner) => self.read(inner),
            Expr::Identifier(ident) if ident.quote_style.is_none() && ident.value.eq_ignore_ascii_case("current_date") => {
                Ok((Node::Today, Type::Date))
            }
            Expr::Identifier(ident) => self.field(&ident.value, ident.quote_style.is_some()),
            Expr::Value(value) => literal(&value.value),
            Expr::TypedString(typed) => typed_literal(&typed.data_type, &typed.value.value),
            Expr::UnaryOp { op: UnaryOperator::Not, expr } => {
                let inner = self.condition(expr)?;
                Ok((Node::Not(boxed(inner)), Type::Boolean))
            }
            Expr::UnaryOp { op: op @ (UnaryOperator::Minus | UnaryOperator::Plus), expr } => {
                let inner = self.of_type(expr, Type::Number)?;
                let node = if *op == UnaryOperator::Minus { Node::Negate(boxed(inner)) } else { inner };
                Ok((node, Type::Number))
            }
            Expr::BinaryOp { left, op, right } => self.binary(left, op, right),
            Expr::IsNull(inner) => self.is_null(inner, false),
            Expr::IsNotNull(inner) => self.is_null(inner, true),
            Expr::IsTrue(inner) => self.is_truth(inner, Some(true), false),
            Expr::IsNotTrue(inner) => self.is_truth(inner, Some(true), true),
            Expr::IsFalse(inner) => self.is_truth(inner, Some(false), false),
            Expr::IsNotFalse(inner) => self.is_truth(inner, Some(false), true),
            Expr::IsUnknown(inner) => self.is_truth(inner, None, false),
            Expr::IsNotUnknown(inner) => self.is_truth(inner, None, true),
            Expr::In { expr, target: InTarget::List(list), negated, .. } => {
                let (value, kind) = self.read(expr)?;
                let mut values = Vec::new();
                for one in list {
                    let (one, _) = self.like_kind(one, kind)?;
                    values.push(one);
                }
                Ok((Node::In(boxed(value), values, *negated), Type::Boolean))
            }
            Expr::Between { expr, negated, low, high } => {
                let (value, kind) = self.read(expr)?;
                ordered(kind)?;
                let (low, _) = self.like_kind(low, kind)?;
                let (high, _) = self.like_kind(high, kind)?;
                let from = Node::Compare(Order::AtLeast, boxed(value.clone()), boxed(low));
                let to = Node::Compare(Order::AtMost, boxed(value), boxed(high));
                let both = Node::And(boxed(from), boxed(to));
                Ok((if *negated { Node::Not(boxed(both)) } else { both }, Type::Boolean))
            }
            Expr::Like { negated, any: false, expr, pattern, escape_char } => {
                let escape = escape_char.as_deref().map(|escape| match escape {
                    Expr::Value(value) => &value.value,
                    _ => &Value::Null,
                });
                self.like(expr, pattern, escape, *negated)
            }
            Expr::MemberOf(member) => self.member(&member.value, &member.array),
            Expr::Function(function) => self.call(function),
            _ => Err(ConditionFault::new(format!("`{expr}` is not among the conditions that are read"))
                .help("=, <>, <, <=, >, >=, AND, OR, NOT, IN, BETWEEN, LIKE, IS NULL, + - * /, LENGTH, UPPER, LOWER, COALESCE, ABS, CURRENT_DATE, MEMBER OF")),
        }
    }

    fn field(&mut self, name: &str, is_quoted: bool) -> Read {
        let number = self.number(name, is_quoted)?;
        let field = self.schema.fields.get(number);
        if field.is_some_and(|field| field.stated.many.is_some()) {
            return Err(ConditionFault::new(format!("`{name}` holds several values"))
                .help(format!("ask `'x' MEMBER OF ({name})` or `{name} IS NULL`")));
        }
        Ok((Node::Field(number), field.map_or(Type::Text, type_of)))
    }

    fn number(&mut self, name: &str, is_quoted: bool) -> Result<usize, ConditionFault> {
        let exact = self.schema.field(name);
        let any_case = || {
            let mut alike = (0..)
                .zip(&self.schema.fields)
                .filter(|(_, field)| field.name.eq_ignore_ascii_case(name))
                .map(|found| found.0);
            alike.next().filter(|_| alike.next().is_none())
        };
        let found = exact.or_else(|| if is_quoted { None } else { any_case() });
        if let Some(number) = found {
            self.fields.push(number);
            return Ok(number);
        }
        let fault = ConditionFault::new(format!("the record has no field `{name}`"));
        let names = self.schema.fields.iter().map(|field| (field.name.as_str(), &field.name));
        Err(match likeness::nearest(name, names) {
            Some(near) => fault.help(format!("did you mean `{near}`?")),
            None if is_quoted => fault.help("a text stands in single quotes: 'x'"),
            None => {
                fault.help("a text stands in single quotes: 'x'; a field is named as in the record schema")
            }
        })
    }

    fn condition(&mut self, expr: &Expr) -> Result<Node, ConditionFault> {
        self.of_type(expr, Type::Boolean)
    }

    fn of_type(&mut self, expr: &Expr, wanted: Type) -> Result<Node, ConditionFault> {
        let (node, kind) = self.read(expr)?;
        if kind == wanted || kind == Type::Null {
            return Ok(node);
        }
        let message = format!("`{expr}` is {}, where {} is needed", kind.words(), wanted.words());
        Err(ConditionFault::new(message).at(expr))
    }

    /// An expression to be compared with one of a kind: of the same, or a literal that can be one.
    fn like_kind(&mut self, expr: &Expr, kind: Type) -> Read {
        let (node, found) = self.read(expr)?;
        let fault = |what: String| ConditionFault::new(what).at(expr);
        match (kind, found, &node) {
            (_, Type::Null, _) => Ok((node, kind)),
            (Type::Code(list), Type::Text, Node::Value(Scalar::Text(word))) => {
                let Some(picklist) = self.schema.picklists.get(list) else { return Ok((node, kind)) };
                if picklist.of_code(word).is_some() || picklist.open || picklist.values.is_empty() {
                    return Ok((node, kind));
                }
                let said = fault(format!("'{word}' is no code of the picklist {}", picklist.name));
                Err(match picklist.find(word) {
                    Match::Value(value) => match picklist.values.get(value) {
                        Some(value) => said.help(format!("conditions compare codes: '{}'", value.code)),
                        None => said,
                    },
                    _ => said.help("conditions compare codes, not labels"),
                })
            }
            (Type::Code(_), Type::Text, _)
            | (Type::Text, Type::Code(_), _)
            | (Type::Code(_), Type::Code(_), _) => Ok((node, kind)),
            // A text in quotes where a day is needed.
            (Type::Date | Type::Time | Type::Moment, Type::Text, Node::Value(Scalar::Text(word))) => {
                let read = match kind {
                    Type::Date => Date::iso(word).map(Scalar::Date),
                    Type::Time => TimeOfDay::iso(word).map(Scalar::Time),
                    _ => Moment::iso(word).map(|moment| Scalar::Moment(moment.instant())),
                };
                read.map(|value| (Node::Value(value), kind)).ok_or_else(|| {
                    fault(format!("'{word}' is no {}", kind.words().trim_start_matches("a ")))
                        .help("write it as ISO does: DATE '2024-12-31'")
                })
            }
            (Type::Moment, Type::Date, Node::Value(Scalar::Date(date))) => {
                let moment = Moment { date: *date, time: TimeOfDay(0), offset: None };
                Ok((Node::Value(Scalar::Moment(moment.instant())), kind))
            }
            (one, other, _) if one == other => Ok((node, kind)),
            (one, other, _) => {
                Err(fault(format!("{} cannot be compared with {}", one.words(), other.words())))
            }
        }
    }

    fn binary(&mut self, left: &Expr, op: &BinaryOperator, right: &Expr) -> Read {
        use BinaryOperator as Op;
        let order = match op {
            Op::Eq => Some(Order::Equal),
            Op::NotEq => Some(Order::Different),
            Op::Lt => Some(Order::Less),
            Op::LtEq => Some(Order::AtMost),
            Op::Gt => Some(Order::More),
            Op::GtEq => Some(Order::AtLeast),
            _ => None,
        };
        if let Some(order) = order {
            return self.compare(left, order, right);
        }
        match op {
            Op::And => {
                let (left, right) = (self.condition(left)?, self.condition(right)?);
                Ok((Node::And(boxed(left), boxed(right)), Type::Boolean))
            }
            Op::Or => {
                let (left, right) = (self.condition(left)?, self.condition(right)?);
                Ok((Node::Or(boxed(left), boxed(right)), Type::Boolean))
            }
            Op::Plus | Op::Minus | Op::Multiply | Op::Divide => self.arithmetic(left, op, right),
            _ => Err(ConditionFault::new(format!("`{op}` is not among the operators that are read"))
                .help("=, <>, <, <=, >, >=, AND, OR, + - * /")),
        }
    }

    fn compare(&mut self, left: &Expr, order: Order, right: &Expr) -> Read {
        // A literal takes its kind from the other side.
        let is_literal = |expr: &Expr| matches!(expr, Expr::Value(_) | Expr::TypedString(_));
        let (left, right, kind) = if is_literal(left) && !is_literal(right) {
            let (right, kind) = self.read(right)?;
            let (left, _) = self.like_kind(left, kind)?;
            (left, right, kind)
        } else {
            let (left, kind) = self.read(left)?;
            let (right, other) = self.like_kind(right, kind)?;
            (left, right, if kind == Type::Null { other } else { kind })
        };
        if !matches!(order, Order::Equal | Order::Different) {
            ordered(kind)?;
        }
        Ok((Node::Compare(order, boxed(left), boxed(right)), Type::Boolean))
    }

    fn arithmetic(&mut self, left: &Expr, op: &BinaryOperator, right: &Expr) -> Read {
        let (one, kind) = self.read(left)?;
        let (other, other_kind) = self.read(right)?;
        let operation = match op {
            BinaryOperator::Plus => Arithmetic::Add,
            BinaryOperator::Minus => Arithmetic::Subtract,
            BinaryOperator::Multiply => Arithmetic::Multiply,
            _ => Arithmetic::Divide,
        };
        let is_number = |kind| matches!(kind, Type::Number | Type::Null);
        let is_date = matches!(kind, Type::Date) && matches!(other_kind, Type::Number);
        if is_date && self.may_be_part(&other) {
            let fault = ConditionFault::new(format!("`{right}` can be a part of a day"));
            return Err(fault
                .at(right)
                .help("a date takes whole days: a whole number, or a field of kind integer"));
        }
        let result = match (kind, operation, other_kind) {
            (one, _, other) if is_number(one) && is_number(other) => Type::Number,
            (Type::Date, Arithmetic::Add | Arithmetic::Subtract, Type::Number) => Type::Date,
            (Type::Date, Arithmetic::Subtract, Type::Date) => Type::Number,
            (one, _, other) => {
                let message = format!("{} {op} {} is not read", one.words(), other.words());
                return Err(ConditionFault::new(message).help("numbers take + - * /; a date takes a number of days behind it, or another date subtracted"));
            }
        };
        Ok((Node::Arithmetic(operation, boxed(one), boxed(other)), result))
    }

    /// Whether a number may have digits after its point.
    fn may_be_part(&self, node: &Node) -> bool {
        match node {
            Node::Field(field) => {
                let field = self.schema.fields.get(*field);
                field.is_some_and(|field| field.stated.kind == KindName::Decimal)
            }
            Node::Value(Scalar::Number(number)) => !number.fract().is_zero(),
            Node::Negate(inner) => self.may_be_part(inner),
            Node::Arithmetic(Arithmetic::Divide, ..) => true,
            Node::Arithmetic(_, one, other) => self.may_be_part(one) || self.may_be_part(other),
            Node::Call(Function::Coalesce | Function::Abs, args) => {
                args.iter().any(|arg| self.may_be_part(arg))
            }
            _ => false,
        }
    }

    fn is_null(&mut self, inner: &Expr, negated: bool) -> Read {
        // The one thing besides MEMBER OF that can be asked of several values.
        if let Expr::Identifier(ident) = inner {
            let number = self.number(&ident.value, ident.quote_style.is_some())?;
            return Ok((Node::IsNull(boxed(Node::Field(number)), negated), Type::Boolean));
        }
        let (inner, _) = self.read(inner)?;
        Ok((Node::IsNull(boxed(inner), negated), Type::Boolean))
    }

    fn is_truth(&mut self, inner: &Expr, truth: Option<bool>, negated: bool) -> Read {
        let inner = self.condition(inner)?;
        Ok((Node::IsTruth(boxed(inner), truth, negated), Type::Boolean))
    }

    fn like(&mut self, expr: &Expr, pattern: &Expr, escape: Option<&Value>, negated: bool) -> Read {
        let (value, kind) = self.read(expr)?;
        if !matches!(kind, Type::Text | Type::Code(_)) {
            return Err(ConditionFault::new(format!("LIKE compares text, and this is {}", kind.words())));
        }
        let Expr::Value(text) = pattern else {
            return Err(ConditionFault::new("the pattern of LIKE is a text in single quotes").at(pattern));
        };
        let Ok((Node::Value(Scalar::Text(text)), _)) = literal(&text.value) else {
            return Err(ConditionFault::new("the pattern of LIKE is a text in single quotes").at(pattern));
        };
        let escape = match escape.map(literal) {
            None => None,
            Some(Ok((Node::Value(Scalar::Text(escape)), _))) if escape.chars().count() == 1 => {
                escape.chars().next()
            }
            Some(_) => return Err(ConditionFault::new("ESCAPE takes one character")),
        };
        let read = Pattern::new(&text, escape).map_err(|fault| match fault {
            PatternFault::EscapesNothing => {
                ConditionFault::new("the escape character escapes nothing").at(pattern)
            }
            PatternFault::Form(error) => ConditionFault::new(format!("the pattern of LIKE: {error}")),
        })?;
        Ok((Node::Like(boxed(value), read, negated), Type::Boolean))
    }

    fn member(&mut self, value: &Expr, array: &Expr) -> Read {
        let array = match array {
            Expr::Nested(inner) => inner,
            other => other,
        };
        let Expr::Identifier(ident) = array else {
            return Err(ConditionFault::new("MEMBER OF takes a field in brackets").at(array));
        };
        let number = self.number(&ident.value, ident.quote_style.is_some())?;
        let field = self.schema.fields.get(number);
        if field.is_none_or(|field| field.stated.many.is_none()) {
            let fault = ConditionFault::new(format!("`{}` holds one value only", ident.value));
            return Err(fault.help(format!("ask `{} = 'x'`", ident.value)));
        }
        let (value, _) = self.like_kind(value, field.map_or(Type::Text, type_of))?;
        let Node::Value(Scalar::Text(word)) = value else {
            return Err(ConditionFault::new("MEMBER OF asks for a text in single quotes"));
        };
        Ok((Node::Member(word.into_owned(), number), Type::Boolean))
    }

    fn call(&mut self, function: &sqlparser::ast::Function) -> Read {
        let name = function.name.to_string().to_uppercase();
        let args: Vec<&Expr> = match &function.args {
            FunctionArguments::None => Vec::new(),
            FunctionArguments::List(list) => {
                let args = list.args.iter().map(|arg| match arg {
                    FunctionArg::Unnamed(FunctionArgExpr::Expr(expr)) => Some(expr),
                    _ => None,
                });
                args.collect::<Option<_>>()
                    .ok_or_else(|| ConditionFault::new(format!("{name} takes plain values")))?
            }
            FunctionArguments::Subquery(_) => return Err(ConditionFault::new("conditions ask no queries")),
        };
        match (name.as_str(), args.as_slice()) {
            ("CURRENT_DATE", []) => Ok((Node::Today, Type::Date)),
            ("LENGTH" | "CHAR_LENGTH" | "UPPER" | "LOWER", [one]) => {
                let (node, kind) = self.read(one)?;
                if !matches!(kind, Type::Text | Type::Code(_) | Type::Null) {
                    return Err(ConditionFault::new(format!(
                        "{name} takes text, and this is {}",
                        kind.words()
                    )));
                }
                let (function, kind) = match name.as_str() {
                    "UPPER" => (Function::Upper, Type::Text),
                    "LOWER" => (Function::Lower, Type::Text),
                    _ => (Function::Length, Type::Number),
                };
                Ok((Node::Call(function, vec![node]), kind))
            }
            ("ABS", [one]) => {
                let node = self.of_type(one, Type::Number)?;
                Ok((Node::Call(Function::Abs, vec![node]), Type::Number))
            }
            ("COALESCE", [first, rest @ ..]) if !rest.is_empty() => {
                let (first, kind) = self.read(first)?;
                let mut all = vec![first];
                for one in rest {
                    all.push(self.like_kind(one, kind)?.0);
                }
                Ok((Node::Call(Function::Coalesce, all), kind))
            }
            _ => Err(ConditionFault::new(format!(
                "`{name}` is not among the functions that are read, or takes something else"
            ))
            .help(
                match self.schema.fields.iter().find(|field| field.name.eq_ignore_ascii_case(&name)) {
                    Some(field) => in_quotes(&field.name),
                    None => "LENGTH(x), UPPER(x), LOWER(x), COALESCE(x, …), ABS(x), CURRENT_DATE".to_owned(),
                },
            )),
        }
    }
}
