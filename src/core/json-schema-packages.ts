/** The JSON Schema validator and its formats: one piece, since they share classes. */
export { Ajv2020, type ErrorObject, type ValidateFunction } from 'ajv/dist/2020';
export { default as addFormats } from 'ajv-formats';
