package evidence

import (
	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
)

// Entries are written flat. The common members come first, then the body under the name of its
// kind: {"seq": 1, "done": "…", "by": "…", "codes": {…}}.

// several replaces the body if a file has more than one. Every ledger rejects it.
type several struct{ Watch }

// Kind returns "".
func (several) Kind() Kind { return "" }

// MarshalJSONTo writes the entry.
func (e Entry) MarshalJSONTo(enc *jsontext.Encoder) error {
	type common Entry
	of := struct {
		common `json:",inline"`
		Body   map[Kind]Body `json:",inline"`
	}{common: common(e)}
	if k := e.Kind(); k != "" {
		of.Body = map[Kind]Body{k: e.Body}
	}
	return json.MarshalEncode(enc, of)
}

// UnmarshalJSONFrom reads an entry. Errors name the member by its JSON pointer.
func (e *Entry) UnmarshalJSONFrom(dec *jsontext.Decoder) error {
	if dec.PeekKind() != '{' {
		return json.UnmarshalDecode(dec, new(struct{}))
	}
	*e = Entry{}
	if _, err := dec.ReadToken(); err != nil {
		return err
	}
	common := map[string]any{"seq": &e.Seq, "done": &e.Done, "by": &e.By, "condition": &e.Condition, "note": &e.Note, "certainty": &e.Certainty}
	for dec.PeekKind() != '}' {
		token, err := dec.ReadToken()
		if err != nil {
			return err
		}
		name := token.String()
		empty, isKind := kinds[Kind(name)]
		switch field, known := common[name]; {
		case known:
			err = json.UnmarshalDecode(dec, field)
		case isKind && dec.PeekKind() == 'n':
			err = dec.SkipValue()
		case isKind:
			body := empty()
			err = json.UnmarshalDecode(dec, body)
			if e.Body != nil {
				body = several{}
			}
			e.Body = body
		default:
			if reject, _ := json.GetOption(dec.Options(), json.RejectUnknownMembers); reject {
				return &json.SemanticError{JSONPointer: dec.StackPointer(), Err: json.ErrUnknownName}
			}
			err = dec.SkipValue()
		}
		if err != nil {
			return err
		}
	}
	_, err := dec.ReadToken()
	return err
}

// JSONBody is a body alone, as the database stores it: an object with one member, under the
// name of the kind.
type JSONBody struct{ Body Body }

// MarshalJSONTo writes the body.
func (b JSONBody) MarshalJSONTo(enc *jsontext.Encoder) error {
	if b.Body == nil {
		return enc.WriteToken(jsontext.Null)
	}
	return json.MarshalEncode(enc, map[Kind]Body{b.Body.Kind(): b.Body})
}

// UnmarshalJSONFrom reads a body.
func (b *JSONBody) UnmarshalJSONFrom(dec *jsontext.Decoder) error {
	var e Entry
	err := e.UnmarshalJSONFrom(dec)
	b.Body = e.Body
	return err
}
