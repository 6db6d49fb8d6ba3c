import { EditorContent, useEditor, useEditorState, type Editor } from '@tiptap/react';
import { StarterKit } from '@tiptap/starter-kit';
import { useEffect, useRef, useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { useTexts } from '../../shared/i18n';
import './fields.scss';

interface Props {
  label: string;
  placeholder: string;
  html: string;
  isInvalid: boolean;
  onHtml: (html: string) => void;
}

/** Text with bold, italic, lists and links; what is pasted is cut down to these. */
const RichField = ({ label, placeholder, html, isInvalid, onHtml }: Props) => {
  // What was said last, and what the editor makes of a text that nobody touched: the server keeps it in its own form.
  const said = useRef(html);
  const untouched = useRef({ html, written: '' });
  const editor = useEditor({
    extensions: [
      StarterKit.configure({
        heading: false,
        blockquote: false,
        code: false,
        codeBlock: false,
        strike: false,
        underline: false,
        horizontalRule: false,
        link: { openOnClick: false, autolink: true, defaultProtocol: 'https' },
      }),
    ],
    content: html,
    // Styles come from files of ours only.
    injectCSS: false,
    editorProps: {
      attributes: { role: 'textbox', 'aria-multiline': 'true', 'aria-label': label, class: 'form-control rich-text' },
    },
    onCreate: ({ editor: now }) => {
      untouched.current = { html, written: now.getHTML() };
    },
    onUpdate: ({ editor: now }) => {
      const written = now.getHTML();
      said.current = now.isEmpty ? '' : written === untouched.current.written ? untouched.current.html : written;
      onHtml(said.current);
    },
  });
  // Put back, or changed by somebody else.
  useEffect(() => {
    if (html === said.current) return;
    said.current = html;
    editor.commands.setContent(html, { emitUpdate: false });
    untouched.current = { html, written: editor.getHTML() };
  }, [editor, html]);
  return (
    <div className={isInvalid ? 'rich is-invalid' : 'rich'} data-empty={html === '' ? placeholder : undefined}>
      <Tools editor={editor} />
      <EditorContent editor={editor} />
    </div>
  );
};

const Tools = ({ editor }: { editor: Editor }) => {
  const { t } = useTexts();
  const [address, setAddress] = useState<string | null>(null);
  const is = useEditorState({
    editor,
    selector: ({ editor: now }) => ({
      bold: now.isActive('bold'),
      italic: now.isActive('italic'),
      bulletList: now.isActive('bulletList'),
      orderedList: now.isActive('orderedList'),
      link: now.isActive('link'),
      href: String(now.getAttributes('link').href ?? ''),
    }),
  });
  const tool = (name: 'bold' | 'italic' | 'bulletList' | 'orderedList' | 'link', sign: string, act: () => void) => (
    <button type="button" className={`rich-${name}`} aria-pressed={is[name]} title={t(`rich.${name}`)} onClick={act}>
      <span aria-hidden="true">{sign}</span>
      <span className="visually-hidden">{t(`rich.${name}`)}</span>
    </button>
  );
  const link = () => {
    const typed = (address ?? '').trim();
    const href = /^[a-z]+:/i.test(typed) ? typed : typed.includes('@') ? `mailto:${typed}` : `https://${typed}`;
    const chain = editor.chain().focus().extendMarkRange('link');
    if (!typed) chain.unsetLink().run();
    else if (editor.state.selection.empty && !is.link)
      chain.insertContent({ type: 'text', text: typed, marks: [{ type: 'link', attrs: { href } }] }).run();
    else chain.setLink({ href }).run();
    setAddress(null);
  };
  return (
    <>
      <div className="rich-tools" role="toolbar" aria-label={t('rich.tools')}>
        {tool('bold', 'B', () => editor.chain().focus().toggleBold().run())}
        {tool('italic', 'I', () => editor.chain().focus().toggleItalic().run())}
        {tool('bulletList', '–', () => editor.chain().focus().toggleBulletList().run())}
        {tool('orderedList', '1.', () => editor.chain().focus().toggleOrderedList().run())}
        {tool('link', t('rich.link'), () => setAddress(address === null ? is.href : null))}
      </div>
      {address !== null && (
        <div className="rich-address">
          <Form.Control
            size="sm"
            autoFocus
            aria-label={t('rich.address')}
            placeholder="https://"
            value={address}
            onChange={(e) => setAddress(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === 'Enter') link();
              else if (e.key === 'Escape') setAddress(null);
              else return;
              e.preventDefault();
              e.stopPropagation();
            }}
          />
          <Button size="sm" variant="outline-primary" onClick={link}>
            {t(address.trim() || !is.link ? 'rich.setLink' : 'rich.unlink')}
          </Button>
        </div>
      )}
    </>
  );
};

export default RichField;
