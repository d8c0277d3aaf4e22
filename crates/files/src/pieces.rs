//! A file that a thread of its own reads ahead and hands on in pieces. Its end is announced: a thread that goes without a
//! word was broken off, and that is an error, never the end of the file.

use super::error::Error;
use std::io::{self, Read};
use std::path::{Path, PathBuf};
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};

enum Piece<T> {
    More(T),
    End,
    Failed(Error),
}

/// What a thread hands on.
pub(crate) struct Pieces<T> {
    path: PathBuf,
    receiver: Receiver<Piece<T>>,
    ended: bool,
}

impl<T: Send + 'static> Pieces<T> {
    /// Starts to read: `read` hands on pieces until that says no. At most `ahead` pieces wait to be taken.
    ///
    /// # Errors
    /// When no thread can be started.
    pub(crate) fn start(
        path: &Path,
        ahead: usize,
        read: impl FnOnce(&mut dyn FnMut(T) -> bool) -> Result<(), Error> + Send + 'static,
    ) -> Result<Self, Error> {
        let (sender, receiver): (SyncSender<Piece<T>>, _) = sync_channel(ahead);
        let thread = std::thread::Builder::new().name("reader".to_owned());
        let started = thread.spawn(move || {
            let last = match read(&mut |piece| sender.send(Piece::More(piece)).is_ok()) {
                Ok(()) => Piece::End,
                Err(error) => Piece::Failed(error),
            };
            drop(sender.send(last));
        });
        let path = path.to_owned();
        match started {
            Ok(_) => Ok(Self { path, receiver, ended: false }),
            Err(source) => Err(Error::NoThread { path, source }),
        }
    }

    /// The next piece, nothing at the end.
    ///
    /// # Errors
    /// What went wrong in the thread.
    pub(crate) fn next(&mut self) -> Result<Option<T>, Error> {
        if self.ended {
            return Ok(None);
        }
        match self.receiver.recv() {
            Ok(Piece::More(piece)) => Ok(Some(piece)),
            Ok(Piece::End) => {
                self.ended = true;
                Ok(None)
            }
            Ok(Piece::Failed(error)) => Err(error),
            Err(_) => Err(Error::BrokenOff { path: self.path.clone() }),
        }
    }
}

/// The pieces of a text as one stream.
pub(crate) struct PieceReader {
    pieces: Pieces<Vec<u8>>,
    piece: Vec<u8>,
    taken: usize,
}

impl PieceReader {
    pub(crate) fn new(pieces: Pieces<Vec<u8>>) -> Self {
        Self { pieces, piece: Vec::new(), taken: 0 }
    }
}

impl Read for PieceReader {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        while self.taken == self.piece.len() {
            match self.pieces.next() {
                Ok(Some(piece)) => (self.piece, self.taken) = (piece, 0),
                Ok(None) => return Ok(0),
                Err(error) => return Err(io::Error::other(error)),
            }
        }
        let ready = self.piece.get(self.taken..).unwrap_or_default();
        let count = ready.len().min(into.len());
        if let (Some(to), Some(from)) = (into.get_mut(..count), ready.get(..count)) {
            to.copy_from_slice(from);
        }
        self.taken += count;
        Ok(count)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_end_that_nobody_announced_is_an_error() {
        let path = Path::new("book.xlsx");
        let whole = Pieces::start(path, 1, |take| {
            take(b"ab".to_vec());
            take(b"c".to_vec());
            Ok(())
        });
        let mut text = String::new();
        PieceReader::new(whole.unwrap()).read_to_string(&mut text).unwrap();
        assert_eq!(text, "abc");

        std::panic::set_hook(Box::new(|_| ()));
        let broken = Pieces::start(path, 1, |take| {
            take(b"ab".to_vec());
            panic!("broken off");
        });
        let told = PieceReader::new(broken.unwrap()).read_to_string(&mut text).unwrap_err().to_string();
        assert!(told.contains("book.xlsx"), "{told}");

        let failed =
            Pieces::<Vec<u8>>::start(path, 1, |_| Err(Error::damaged(path, "sheet 1", "it ends early")));
        let told = PieceReader::new(failed.unwrap()).read_to_string(&mut text).unwrap_err().to_string();
        assert!(told.contains("sheet 1"), "{told}");
    }
}
