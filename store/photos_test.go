package store_test

import (
	"context"
	"errors"
	"slices"
	"sync"
	"testing"

	"glenmist/store"
)

// Photos that are added at once are numbered one by one: the job is locked for each.
func TestPhotosAtOnceAreNumberedOneByOne(t *testing.T) {
	s, number := opened(t)
	const n = 12
	numbers := make([]int, n)
	var wg sync.WaitGroup
	for i := range n {
		wg.Go(func() {
			p, err := s.AddPhoto(context.Background(), number, store.Photo{Tag: "P1", Made: moment, By: "Wyn", Width: 1, Height: 1}, []byte{1})
			if err != nil {
				t.Error(err)
			}
			numbers[i] = p.Number
		})
	}
	wg.Wait()
	slices.Sort(numbers)
	for i, got := range numbers {
		if got != i+1 {
			t.Fatalf("numbered %v", numbers)
		}
	}
	if err := s.SetPhoto(t.Context(), number, 3, true); err != nil {
		t.Fatal(err)
	}
	if p, _, err := s.Photo(t.Context(), number, 3); err != nil || !p.Removed {
		t.Errorf("%+v, %v", p, err)
	}
	for _, err := range []error{s.SetPhoto(t.Context(), number, 99, true), s.SetPhoto(t.Context(), "none", 1, true)} {
		if !errors.Is(err, store.ErrNotFound) {
			t.Errorf("no such photo: %v", err)
		}
	}
}
