package references

import "echo-atlas/internal/core/schema"

// Most objects have a handful of dependencies: what is known of them costs less than they do.

// key is what makes two references one dependency: the first place is kept.
type key struct {
	from   int // in the ends that refer to things
	to     any // an object, or an end
	column string
	use    schema.Use
}

// seen holds the keys of dependencies by their places in a list.
type seen struct {
	keys  []key
	index map[key]int // of all keys, once there are many
}

// few is how many keys are looked through one by one.
const few = 16

func (s *seen) reset() {
	clear(s.keys)
	s.keys, s.index = s.keys[:0], nil
}

// place returns where a key stands.
func (s *seen) place(k *key) (int, bool) {
	if s.index != nil {
		i, ok := s.index[*k]
		return i, ok
	}
	for i := range s.keys {
		if have := &s.keys[i]; have.use == k.use && have.from == k.from && have.column == k.column && have.to == k.to {
			return i, true
		}
	}
	return 0, false
}

// note adds a key that was not there.
func (s *seen) note(k key) {
	s.keys = append(s.keys, k)
	switch {
	case s.index != nil:
		s.index[k] = len(s.keys) - 1
	case len(s.keys) > few:
		s.index = make(map[key]int, 4*few)
		for i, k := range s.keys {
			s.index[k] = i
		}
	}
}

// room is where dependencies are kept that stay: those of many objects in one piece.
type room struct{ list []schema.Dependency }

// piece is how many dependencies a piece has room for.
const piece = 256

// open returns an empty list to which can be appended.
func (r *room) open() []schema.Dependency {
	if cap(r.list)-len(r.list) < few {
		r.list = make([]schema.Dependency, 0, piece)
	}
	return r.list[len(r.list):]
}

// keep keeps a list that open returned and returns it, nil if it is empty.
func (r *room) keep(list []schema.Dependency) []schema.Dependency {
	n := len(list)
	if n == 0 {
		return nil
	}
	if free := r.list[len(r.list):cap(r.list)]; len(free) >= n && &free[0] == &list[0] {
		r.list = r.list[:len(r.list)+n]
	}
	return list[:n:n]
}
