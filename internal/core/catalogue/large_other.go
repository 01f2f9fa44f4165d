//go:build !linux

package catalogue

// Where no large pages are to be had, a list is like any other.

// large returns a list of n zeros.
func large[T any](n int) []T { return make([]T, n) }
