import { rememberedSelection, rememberSelection } from './selection';

describe('the selection of the last visit', () => {
  afterEach(() => localStorage.clear());

  it('is what was chosen last, and nothing on a first visit', () => {
    localStorage.clear();
    expect(rememberedSelection()).toEqual({ take: undefined, character: undefined });
    rememberSelection({ take: 't', character: undefined });
    rememberSelection({ take: 't', character: 'c' });
    expect(rememberedSelection()).toEqual({ take: 't', character: 'c' });
  });

  it('is nothing where something else stands in its place', () => {
    for (const broken of ['{', 'null', '7', '"x"']) {
      localStorage.setItem('hollow-stride.selection', broken);
      expect(rememberedSelection()).withContext(broken).toEqual({ take: undefined, character: undefined });
    }
  });
});
