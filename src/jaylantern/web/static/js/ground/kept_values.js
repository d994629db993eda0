// The values of a form's fields, remembered in this browser for the next time.

export class KeptValues {
  /** @param {string} name under which they are remembered */
  constructor(name) {
    this._name = `jay-lantern: ${name}`;
  }

  /** What was remembered, by the names of the fields. */
  get values() {
    try {
      return JSON.parse(localStorage.getItem(this._name)) ?? {};
    } catch {
      return {};
    }
  }

  keep(values) {
    localStorage.setItem(this._name, JSON.stringify(values));
  }

  /** Fill fields with what was remembered; a list that no longer offers it, and a field of which nothing is known, stay as they are. */
  fill(fields) {
    const { values } = this;
    for (const field of fields) {
      const value = values[field.name];
      const offered = field.tagName !== "SELECT" || [...field.options].some((each) => each.value === value);
      if (value && offered) field.value = value;
    }
  }
}
