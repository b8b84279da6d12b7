// Package api holds the contract between server and interface.
package api

import _ "embed"

// Contract is openapi.yaml.
//
//go:embed openapi.yaml
var Contract []byte
