package page

import (
	"errors"
	"net/url"
	"reflect"
	"strconv"
	"strings"

	"github.com/go-playground/form/v4"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// List is a comma-separated list of words in one field.
type List []string

var decoder = newDecoder()

func newDecoder() *form.Decoder {
	d := form.NewDecoder()
	d.RegisterCustomTypeFunc(func(typed []string) (any, error) {
		v, ok := figure(typed[0])
		if !ok {
			return v, invalid.Error{Expected: "a number, such as 12.5", Got: invalid.Quote(typed[0])}
		}
		return v, nil
	}, float64(0))
	d.RegisterCustomTypeFunc(func(typed []string) (any, error) {
		n, err := strconv.Atoi(typed[0])
		if err != nil {
			return n, invalid.Error{Expected: "a whole number, such as 4", Got: invalid.Quote(typed[0])}
		}
		return n, nil
	}, 0)
	d.RegisterCustomTypeFunc(func([]string) (any, error) { return true, nil }, false) // a ticked box
	d.RegisterCustomTypeFunc(func(typed []string) (any, error) { return unit.ParseDistance(typed[0]) }, unit.Kilometres(0))
	d.RegisterCustomTypeFunc(func(typed []string) (any, error) { return engine.ParseOrder(typed[0]) }, []engine.Cylinder{})
	d.RegisterCustomTypeFunc(func(typed []string) (any, error) {
		var all List
		for word := range strings.SplitSeq(typed[0], ",") {
			if word = strings.TrimSpace(word); word != "" {
				all = append(all, word)
			}
		}
		return all, nil
	}, List{})
	return d
}

// figure reads a number with a decimal point or comma.
func figure(text string) (float64, bool) {
	v, err := strconv.ParseFloat(strings.NewReplacer(",", ".", "−", "-").Replace(text), 64)
	return v, err == nil
}

// Decode reads a form into a struct. The tag form names the field. Texts are trimmed. An empty
// field keeps the old value, except a number, distance or order with the tag required. Errors
// name the field and what was expected, from the tag expected or the type.
func Decode(typed url.Values, into any) invalid.Errors {
	return decode(typed, into, SameName)
}

// DecodeRow reads one row of a table of a form. Fields are named by [RowField], with the
// table's name in front.
func DecodeRow(typed url.Values, table string, row int, into any) invalid.Errors {
	return decode(typed, into, func(name string) string { return RowField(table+"-"+name, row) })
}

func decode(typed url.Values, into any, field func(name string) string) (bad invalid.Errors) {
	kind := reflect.TypeOf(into).Elem()
	clean := url.Values{}
	for i := range kind.NumField() {
		name := kind.Field(i).Tag.Get("form")
		if kind.Field(i).Tag.Get("required") != "" && strings.TrimSpace(typed.Get(field(name))) == "" {
			clean.Set(name, "") // an error replaces the message of the type
			continue
		}
		values := typed[field(name)]
		if kind.Field(i).Type.Kind() != reflect.Slice && len(values) > 1 {
			values = values[:1] // the first value, like [url.Values.Get]
		}
		for _, text := range values {
			if text = strings.TrimSpace(text); text != "" {
				clean[name] = append(clean[name], text)
			}
		}
	}
	err := decoder.Decode(into, clean)
	wrong, ok := errors.AsType[form.DecodeErrors](err)
	if err != nil && !ok {
		return invalid.From(err)
	}
	for i := range kind.NumField() {
		f := kind.Field(i)
		name := f.Tag.Get("form")
		switch expected := f.Tag.Get("expected"); {
		case wrong[name] == nil:
		case expected != "":
			bad.Add(field(name), expected, invalid.Quote(clean.Get(name)))
		default:
			bad.Under(field(name), wrong[name])
		}
	}
	return bad
}
