package web

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/gin-gonic/gin"

	served "jollysatchel/api"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/desk"
)

// mostJSON is the largest body of a request, in bytes, whose route says nothing else.
const mostJSON = 1 << 20

// An operation is what the contract says of one route.
type operation struct {
	name     string
	params   openapi3.Parameters
	body     *openapi3.Schema // of JSON
	required bool             // a body is
	form     bool             // the body is a form with a file
	most     int64            // bytes of the body
	inMemory bool             // the body is
}

// contract is the API's, read once.
var contract = sync.OnceValue(func() map[string]operation { return readContract(served.Contract) })

// readContract returns the operations by "METHOD path", as gin writes paths.
func readContract(b []byte) map[string]operation {
	doc, err := openapi3.NewLoader().LoadFromData(b)
	if err != nil {
		panic(fmt.Sprintf("the contract can't be read: %v", err)) // it is built in
	}
	base, err := doc.Servers.BasePath()
	if err != nil {
		panic(err)
	}
	out := map[string]operation{}
	for path, item := range doc.Paths.Map() {
		at := base + strings.NewReplacer("{", ":", "}", "").Replace(path)
		for method, o := range item.Operations() {
			op := operation{name: strings.ToUpper(o.OperationID[:1]) + o.OperationID[1:],
				params: slices.Concat(item.Parameters, o.Parameters), most: mostJSON}
			if n, ok := o.Extensions["x-most-bytes"].(float64); ok {
				op.most = int64(n)
			}
			if o.RequestBody != nil {
				body := o.RequestBody.Value
				op.required = body.Required
				if j := body.Content["application/json"]; j != nil {
					op.body = j.Schema.Value
				}
				op.form = body.Content["multipart/form-data"] != nil
				op.inMemory = !op.form || o.Extensions["x-in-memory"] == true
			}
			out[method+" "+at] = op
		}
	}
	return out
}

// checked holds a request against the contract before anything is made of it.
// Its JSON is read, within the route's limit, and can be read again.
func (s *Server) checked(c *gin.Context, op operation) error {
	if err := checkParams(c, op, "query", "header"); err != nil {
		return err
	}
	switch {
	case op.form:
		if kind, _, _ := mime.ParseMediaType(c.GetHeader("Content-Type")); kind != "multipart/form-data" {
			return desk.BadRequest(errors.New("no form"))
		}
		return nil
	case op.body == nil:
		return s.noBody(c)
	}
	if c.Request.ContentLength > op.most {
		return desk.ErrTooLarge
	}
	b, err := io.ReadAll(c.Request.Body)
	if err != nil {
		return err
	}
	if len(bytes.TrimSpace(b)) == 0 && !op.required {
		c.Request.Body = http.NoBody
		c.Request.ContentLength = 0
		return nil
	}
	if kind, _, _ := mime.ParseMediaType(c.GetHeader("Content-Type")); kind != "application/json" {
		return desk.BadRequest(errors.New("no JSON"))
	}
	if !utf8.Valid(b) {
		return desk.BadRequest(errors.New("letters that aren't UTF-8"))
	}
	if err := checkJSON(b, op.body); err != nil {
		return err
	}
	sum := sha256.Sum256(b)
	c.Set(bodyKey, hex.EncodeToString(sum[:]))
	c.Request.Body = io.NopCloser(bytes.NewReader(b))
	return nil
}

// noBody refuses a body where none is asked for; what browsers send is empty.
func (s *Server) noBody(c *gin.Context) error {
	var one [1]byte
	n, err := io.ReadFull(c.Request.Body, one[:])
	if n > 0 {
		return desk.BadRequest(errors.New("a body"))
	}
	if err != io.EOF {
		return err
	}
	return nil
}

// How deep a body's values may be in one another, and how many of them there may
// be with the names of members: each takes far more memory than it is long.
const mostDeep = 20

const mostValues = 500_000

// sizeOfJSON says how deep the values of a body are in one another, and how many there are
// with the names of members, before it is made into any. It doesn't ask whether it is JSON.
func sizeOfJSON(b []byte) (deepest, values int) {
	values = 1
	for i, deep, quoted := 0, 0, false; i < len(b); i++ {
		switch c := b[i]; {
		case quoted && c == '\\':
			i++
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '[' || c == '{':
			deep++
			values, deepest = values+1, max(deepest, deep)
		case c == ']' || c == '}':
			deep--
		case c == ',' || c == ':':
			values++
		}
	}
	return deepest, values
}

func checkJSON(b []byte, schema *openapi3.Schema) error {
	switch deep, values := sizeOfJSON(b); {
	case deep > mostDeep:
		return desk.BadRequest(errors.New("too deep"))
	case values > mostValues:
		return &desk.Wrong{Status: http.StatusUnprocessableEntity, Code: "too-many", Args: map[string]string{"most": strconv.Itoa(mostValues)}}
	}
	var v any
	d := json.NewDecoder(bytes.NewReader(b))
	d.UseNumber()
	if err := d.Decode(&v); err != nil {
		return desk.BadRequest(err)
	}
	if _, err := d.Token(); err != io.EOF {
		return desk.BadRequest(errors.New("more than one value"))
	}
	if holdsNUL(v) {
		return &desk.Wrong{Status: http.StatusBadRequest, Field: "", Code: "no-such-letter", Args: nil}
	}
	return asWrong(schema.VisitJSON(v), "")
}

// holdsNUL reports whether a text in a value has the letter that a database can't keep.
func holdsNUL(v any) bool {
	switch v := v.(type) {
	case string:
		return strings.ContainsRune(v, 0)
	case []any:
		return slices.ContainsFunc(v, holdsNUL)
	case map[string]any:
		for name, inner := range v {
			if holdsNUL(name) || holdsNUL(inner) {
				return true
			}
		}
	}
	return false
}

// checkParams holds the parameters in some places against the contract.
func checkParams(c *gin.Context, op operation, places ...string) error {
	query, err := url.ParseQuery(c.Request.URL.RawQuery)
	if err != nil {
		return desk.BadRequest(err)
	}
	for _, p := range op.params {
		if slices.Contains(places, p.Value.In) {
			if err := checkParam(c, query, p.Value); err != nil {
				return err
			}
		}
	}
	return nil
}

func checkParam(c *gin.Context, query url.Values, p *openapi3.Parameter) error {
	var values []string
	switch p.In {
	case "path":
		values = []string{c.Param(p.Name)}
	case "query":
		values = query[p.Name]
	case "header":
		values = c.Request.Header.Values(p.Name)
	}
	if len(values) == 0 {
		if p.Required {
			return &desk.Wrong{Status: http.StatusBadRequest, Field: p.Name, Code: "missing", Args: nil}
		}
		return nil
	}
	if len(values) > 1 {
		return &desk.Wrong{Status: http.StatusBadRequest, Field: p.Name, Code: "bad-request", Args: nil}
	}
	text := values[0]
	if p.In == "path" && (!utf8.ValidString(text) || strings.ContainsRune(text, 0)) {
		return seam.ErrNotFound
	}
	if !utf8.ValidString(text) || strings.ContainsRune(text, 0) {
		return &desk.Wrong{Status: http.StatusBadRequest, Field: p.Name, Code: "no-such-letter", Args: nil}
	}
	var v any = text
	switch schema := p.Schema.Value; {
	case schema.Type.Is("integer"):
		n, err := strconv.ParseInt(text, 10, 64)
		if err != nil {
			return paramWrong(p, &desk.Wrong{Status: http.StatusBadRequest, Field: p.Name, Code: "bad-request", Args: nil})
		}
		v = float64(n)
	case schema.Type.Is("boolean"):
		b, err := strconv.ParseBool(text)
		if err != nil {
			return &desk.Wrong{Status: http.StatusBadRequest, Field: p.Name, Code: "bad-request", Args: nil}
		}
		v = b
	}
	if err := asWrong(p.Schema.Value.VisitJSON(v), p.Name); err != nil {
		return paramWrong(p, err)
	}
	return nil
}

// paramWrong is the refusal of a parameter: an address that can't be one of ours
// isn't there.
func paramWrong(p *openapi3.Parameter, err error) error {
	if p.In == "path" {
		return seam.ErrNotFound
	}
	return err
}

// asWrong says in our words what the contract's schema says of a value.
func asWrong(err error, field string) error {
	if err == nil {
		return nil
	}
	var se *openapi3.SchemaError
	if !errors.As(err, &se) {
		return desk.BadRequest(err)
	}
	if at := strings.Join(se.JSONPointer(), "."); at != "" {
		field = at
	}
	w := &desk.Wrong{Status: http.StatusBadRequest, Field: field, Code: "bad-request", Args: nil}
	limit := func(code string, n uint64) {
		w.Status, w.Code, w.Args = http.StatusUnprocessableEntity, code, map[string]string{"most": strconv.FormatUint(n, 10)}
	}
	switch se.SchemaField {
	case "maxLength":
		limit("too-long", *se.Schema.MaxLength)
	case "maxItems":
		limit("too-many", *se.Schema.MaxItems)
	case "maxProperties":
		limit("too-many", *se.Schema.MaxProps)
	case "required":
		w.Code = "missing"
	case "minLength":
		w.Code = "missing"
	case "minimum", "maximum":
		w.Code = "out-of-range"
	case "enum":
		w.Code = "not-one-of"
	}
	return w
}
