//! Where an output stands in the end, and how all of a run come there at once.

use crate::error::Error;
use std::fs::File;
use std::io;
use std::path::{Path, PathBuf};
use tempfile::NamedTempFile;

/// What the names of temporary files begin and end with; the number of the process stands between.
pub(super) const PREFIX: &str = ".tidy-gate-";
pub(super) const SUFFIX: &str = ".part";

/// Where a path leads: through a link to the file it stands for.
///
/// # Errors
/// When something stands there that is no regular file, or the link leads nowhere.
pub(super) fn place_of(path: &Path) -> Result<PathBuf, Error> {
    let Ok(here) = path.symlink_metadata() else { return Ok(path.to_owned()) };
    let refused = |what| Error::NoRegularFile { path: path.to_owned(), what };
    if here.is_symlink() {
        let place = path.canonicalize().map_err(|_| refused("a link that leads nowhere"))?;
        return if place.is_file() {
            Ok(place)
        } else {
            Err(refused("a link to something else than a file"))
        };
    }
    if here.is_file() { Ok(path.to_owned()) } else { Err(refused("a pipe, a device or the like")) }
}

/// The folder that a path stands in.
pub(super) fn folder_of(path: &Path) -> &Path {
    path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."))
}

/// A temporary file beside its place, locked as long as it is open, with the permissions of what it will replace.
pub(super) fn temporary(folder: &Path, place: &Path) -> io::Result<NamedTempFile> {
    let prefix = format!("{PREFIX}{}-", std::process::id());
    let mut builder = tempfile::Builder::new();
    builder.prefix(&prefix).suffix(SUFFIX);
    #[cfg(unix)]
    builder.permissions(std::os::unix::fs::PermissionsExt::from_mode(0o666));
    let file = builder.tempfile_in(folder)?;
    // Where nothing can be locked, the number of the process alone tells that it goes on.
    let _ = file.as_file().try_lock();
    if let Ok(existing) = place.metadata() {
        file.as_file().set_permissions(existing.permissions())?;
    }
    Ok(file)
}

/// Moves files to their places. With `force` what stands there is replaced, and comes back if one cannot be moved.
pub(super) fn put(files: Vec<(PathBuf, NamedTempFile)>, force: bool) -> Result<Vec<PathBuf>, Error> {
    // Runs with the same outputs take turns, so that they never leave some of one and some of another.
    let mut folders: Vec<PathBuf> =
        files.iter().filter_map(|(path, _)| folder_of(&place_of(path).ok()?).canonicalize().ok()).collect();
    folders.sort();
    folders.dedup();
    let locked: Vec<File> = folders.iter().filter_map(|folder| File::open(folder).ok()).collect();
    // A file system without locks has its runs one after the other by whoever starts them.
    locked.iter().for_each(|folder| drop(folder.lock()));

    let mut moved: Vec<(PathBuf, PathBuf, Option<NamedTempFile>)> = Vec::new();
    for (path, file) in files {
        let done = place_of(&path).and_then(|place| {
            let failed = |source: io::Error| Error::write(&path, source);
            let before = if force { kept(&place).map_err(failed)? } else { None };
            let put = if force { file.persist(&place) } else { file.persist_noclobber(&place) };
            match put {
                Ok(_) => Ok((place, before)),
                Err(error) if error.error.kind() == io::ErrorKind::AlreadyExists => {
                    Err(Error::Exists { free: free_name(&path), path: path.clone() })
                }
                Err(error) => Err(failed(error.error)),
            }
        });
        match done {
            Ok((place, before)) => moved.push((path, place, before)),
            Err(error) => {
                for (_, place, before) in moved.into_iter().rev() {
                    // The message that follows matters more than whether this succeeds.
                    let _ = match before {
                        Some(before) => before.persist(&place).map(drop).map_err(|error| error.error),
                        None => std::fs::remove_file(&place),
                    };
                }
                return Err(error);
            }
        }
    }
    Ok(moved.into_iter().map(|(path, _, _)| path).collect())
}

/// What stands in a place, under another name beside it, to be put back or to go.
fn kept(place: &Path) -> io::Result<Option<NamedTempFile>> {
    if !place.exists() {
        return Ok(None);
    }
    let beside = temporary(folder_of(place), place)?;
    let (file, name) = beside.keep().map_err(|error| error.error)?;
    // A second name for it costs nothing; where there are none, it is copied.
    std::fs::remove_file(&name)?;
    if std::fs::hard_link(place, &name).is_err() {
        std::fs::copy(place, &name)?;
    }
    Ok(Some(NamedTempFile::from_parts(file, tempfile::TempPath::try_from_path(name)?)))
}

/// A name like this one that is free.
pub(super) fn free_name(path: &Path) -> PathBuf {
    other_names(path).find(|path| path.symlink_metadata().is_err()).unwrap_or_else(|| path.to_owned())
}

/// Names like this one: `ready-2.csv` for `ready.csv`, `new-2.plan.toml` for `new.plan.toml`, and on.
pub fn other_names(path: &Path) -> impl Iterator<Item = PathBuf> + use<'_> {
    let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let ours = [".plan.toml", ".record.toml"].into_iter().find(|ending| name.ends_with(ending));
    let ending =
        ours.map(str::len).or_else(|| path.extension().map(|ending| ending.len() + 1)).unwrap_or_default();
    let (stem, ending) = name.split_at_checked(name.len() - ending).unwrap_or((&name, ""));
    let (stem, ending) = (stem.to_owned(), ending.to_owned());
    (2..).map(move |number| path.with_file_name(format!("{stem}-{number}{ending}")))
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::Write;

    fn written(folder: &Path, name: &str, text: &str) -> (PathBuf, NamedTempFile) {
        let place = folder.join(name);
        let mut file = temporary(folder_of(&place), &place).unwrap();
        file.write_all(text.as_bytes()).unwrap();
        (place, file)
    }

    #[test]
    fn other_names_keep_the_ending() {
        for (name, other) in
            [("r.csv", "r-2.csv"), ("n.plan.toml", "n-2.plan.toml"), ("x", "x-2"), (".csv", ".csv-2")]
        {
            assert_eq!(other_names(Path::new(name)).next(), Some(PathBuf::from(other)));
        }
    }

    #[test]
    fn all_come_to_their_places_or_all_stay_as_they_were() {
        for force in [true, false] {
            let folder = tempfile::tempdir().unwrap();
            let folder = folder.path();
            std::fs::create_dir(folder.join("gone")).unwrap();
            if force {
                std::fs::write(folder.join("a.csv"), "old a").unwrap();
            }
            let files = vec![
                written(folder, "a.csv", "new a"),
                written(folder, "b.csv", "new b"),
                written(folder, "gone/c.csv", "new c"),
            ];
            std::fs::remove_dir_all(folder.join("gone")).unwrap();
            assert!(matches!(put(files, force), Err(Error::Write { .. })), "{force}");
            let names: Vec<_> =
                std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().file_name()).collect();
            if force {
                assert_eq!(names, ["a.csv"]);
                assert_eq!(std::fs::read_to_string(folder.join("a.csv")).unwrap(), "old a");
            } else {
                assert!(names.is_empty(), "{names:?}");
            }
            // And when nothing is in the way.
            let files = vec![written(folder, "a.csv", "new a"), written(folder, "b.csv", "new b")];
            assert_eq!(put(files, force).unwrap(), [folder.join("a.csv"), folder.join("b.csv")]);
            assert_eq!(std::fs::read_to_string(folder.join("a.csv")).unwrap(), "new a");
            assert_eq!(std::fs::read_dir(folder).unwrap().count(), 2);
        }
    }
}
