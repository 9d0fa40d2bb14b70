package httpapi

import (
	"fmt"
	"reflect"
	"regexp"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/httpapi/apigen"
)

// inSentences is what a person is told: a sentence that begins with a capital or what was typed, and ends.
var inSentences = regexp.MustCompile(`^("|-|\d|[A-Z]).*[.?]$`)

// Every value that the contract can refuse is refused in a person's words, with every code that the validator has for it.
func TestEveryRefusalIsInWords(t *testing.T) {
	t.Parallel()
	doc, err := apigen.GetSpec()
	require.NoError(t, err)
	fed := map[string]int{}
	seen := map[*openapi3.Schema]bool{}
	feed := func(s *openapi3.Schema, value any) {
		err := s.VisitJSON(value, openapi3.MultiErrors(), openapi3.EnableFormatValidation())
		if err == nil {
			return
		}
		f := flattened{}
		f.add("field", err)
		require.NotEmpty(t, f.fields)
		for _, field := range f.fields {
			fed[field.Code]++
			assert.Regexp(t, inSentences, field.Message)
			assert.NotRegexp(t, MachineWords, field.Message, "%v", value)
		}
	}
	var walk func(ref *openapi3.SchemaRef)
	walk = func(ref *openapi3.SchemaRef) {
		if ref == nil || ref.Value == nil || seen[ref.Value] {
			return
		}
		s := ref.Value
		seen[s] = true
		for _, bad := range []any{nil, "", "tea, hot", strings.Repeat("long ", 2000), -1e9, 1e9, 0.5, true, []any{}, make([]any, 999), map[string]any{}, map[string]any{"no_such_field": 1.0}} {
			feed(s, bad)
		}
		for _, p := range s.Properties {
			walk(p)
		}
		walk(s.Items)
	}
	for _, path := range doc.Paths.Map() {
		for _, operation := range path.Operations() {
			for _, p := range operation.Parameters {
				walk(p.Value.Schema)
			}
			if operation.RequestBody != nil {
				for _, content := range operation.RequestBody.Value.Content {
					walk(content.Schema)
				}
			}
		}
	}
	// What the validator has codes for and the contract uses.
	for _, code := range []string{"required", "maxLength", "minLength", "minimum", "maximum", "maxItems", "enum", "type", "format", "pattern", "properties"} {
		assert.Positive(t, fed[code], "%s was never fed: %v", code, fed)
	}
	// And those that it may come to use: none without words of its own, or at least without the validator's.
	for i := range reflect.TypeFor[openapi3.Schema]().NumField() {
		name, _, _ := strings.Cut(reflect.TypeFor[openapi3.Schema]().Field(i).Tag.Get("json"), ",")
		if s := (&openapi3.Schema{}); name != "" && name != "type" && !strings.Contains("maxLength minimum maximum maxItems", name) {
			assert.NotRegexp(t, MachineWords, worded(&openapi3.SchemaError{Schema: s, SchemaField: name, Value: fmt.Errorf("boom")}))
		}
	}
}
