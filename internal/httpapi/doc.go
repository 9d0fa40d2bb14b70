// Package httpapi serves the contract in api/openapi.yaml and the page that uses it.
//
// A request goes through, in this order: a request id and a line in the log; a guard against
// panics; refusal of writes from other sites; the contract's own checks; who is signed in; and then
// one use case of package shop. Handlers only carry values across: what they return as errors is
// turned into problem documents in one place, [problems.write].
package httpapi

//go:generate go tool oapi-codegen -config ../../api/oapi-codegen.yaml -o apigen/api.gen.go ../../api/openapi.yaml
