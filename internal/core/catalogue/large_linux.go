package catalogue

// What is read of a large snapshot is kept in a few very large lists.

import (
	"syscall"
	"unsafe"
)

// large returns a list of n zeros for what a large snapshot has very many of. Most of what a short-lived program spends on such a list goes into
// touching its memory for the first time, page by page; in large pages it is had for a fraction of that.
func large[T any](n int) []T {
	list := make([]T, n)
	const page = 2 << 20 // bytes
	if size := n * int(unsafe.Sizeof(*new(T))); size >= 2*page {
		_ = syscall.Madvise(unsafe.Slice((*byte)(unsafe.Pointer(unsafe.SliceData(list))), size), syscall.MADV_HUGEPAGE) // advice: nothing depends on it
	}
	return list
}
