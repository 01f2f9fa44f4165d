// Package catalogue is the store of snapshots: one SQLite file in a folder, and an index of names and texts beside it.
//
// Save stores a Reading as a Snapshot, which is never altered afterwards. What does not change is stored once: the contents of
// objects lie in compressed packs by their hash, the objects of a schema and kind in chunks that are cut where names say,
// so that an added object changes one chunk; a root lists chunks, and equal databases have equal roots. Contents loads the
// entries of a snapshot (identity, hash, summary), Sparse each when it is asked for, Outline nothing yet, Objects the contents of
// entries, Needs the graph of dependencies, Around the part of it that is reached from some entries, Pair what differs between two
// snapshots, Scan the index.
//
// Nothing answers that no checksum covers: roots and contents by their hashes, all else by a CRC-32C (seal.go). What does not
// fit is ErrDamaged. Several processes may read and write at once; readers that meet a drop get ErrDropped and ask again.
// Where nothing can be written, the file is read as it lies (still.go).
package catalogue
