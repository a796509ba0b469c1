import { Ajv2020 } from 'ajv/dist/2020';
import ajvFormats from 'ajv-formats';

/** The validator with all formats, for JSON Schema 2020-12: one piece of the program, since the two share classes. */
export function createValidator(options: ConstructorParameters<typeof Ajv2020>[0]): Ajv2020 {
  const validator = new Ajv2020(options);
  // The package is CommonJS that names its function as `default` too; which one an import gives depends on the loader.
  const formats = ajvFormats as unknown as { default?: (given: Ajv2020) => void } & ((given: Ajv2020) => void);
  (formats.default ?? formats)(validator);
  return validator;
}
